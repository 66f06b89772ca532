import type { Plan, SeamSaid } from '@/api/client'
import { mount } from '@vue/test-utils'
import type { LandedHit } from '@/drawing/hits'
import { describe, expect, it, vi } from 'vitest'
import { paintStitches } from '@/drawing/ties'
import EndHandle from './EndHandle.vue'
import FitReport from './FitReport.vue'
import HitThreads from './HitThreads.vue'
import SeamStitches from './SeamStitches.vue'

const rate = { num: 25, den: 1, drop_frame: false }
const seam = {
  out_samples: 1000,
  source_from_samples: 1000,
  source_to_samples: 5000,
  fade_samples: 20,
  correlation: 0.2,
  percentile: 71.4,
  grade: 'even' as const,
  short_bar: false,
  kind: 'beat' as const,
  reason: '',
}
const plan = {
  method: 'rearrange',
  rate: 100,
  target_samples: 7250,
  score: 1,
  passages: [
    {
      pins: [
        { source_samples: 0, out_samples: 0 },
        { source_samples: 7192, out_samples: 7250 },
      ],
    },
  ],
  seams: [seam],
  rests: [],
  hits: [],
  opening: { kind: 'own' },
  landing: { kind: 'ring_out', last_hit_samples: null },
  fade_in: { n_samples: 0, shape: 'linear' },
  fade_out: { n_samples: 1, shape: 'linear' },
  gain_db: 0,
} satisfies Plan
const scale = { startS: 0, pxPerS: 10, widthPx: 900 }
const stubs = { VBtn: { template: '<button><slot /></button>' } }

describe('a seam', () => {
  it.each([
    ['even', 4],
    ['faint', 2],
    ['plain', 0],
  ] as const)('fills its arms by grade: %s', (grade, filled) => {
    const stitches = mount(SeamStitches, {
      props: { plan: { ...plan, seams: [{ ...seam, grade }] }, scale },
    })
    const strokes: number[] = []
    const context = new Proxy(
      { lineWidth: 0, stroke: () => strokes.push(context.lineWidth) },
      {
        get: (kept, name) => kept[name as 'stroke'] ?? (() => undefined),
      },
    )
    const colors = { ground: '', full: '', bare: '' }
    paintStitches({ context } as never, scale, [{ ...seam, grade }], 100, colors)
    expect(strokes).toHaveLength(4)
    expect(strokes.filter((widthPx) => widthPx === 4)).toHaveLength(filled)
    expect(stitches.get('button').attributes('aria-label')).toContain(`Seam 1 at 0:10.00, ${grade}`)
  })
  it('is heard by a click, and is there only where it is in view', async () => {
    const stitches = mount(SeamStitches, { props: { plan, scale } })
    await stitches.get('button').trigger('click')
    expect(stitches.emitted('hear')).toEqual([[seam]])
    await stitches.setProps({ scale: { ...scale, startS: 12 } })
    expect(stitches.find('button').exists()).toBe(false)
  })
})

const landed = (more: Partial<LandedHit>): LandedHit => ({
  id: 1,
  label: '',
  kind: 'downbeat',
  weight: 'must',
  askedS: 10,
  landedS: 10,
  sourceS: 40,
  errorFrames: 0,
  isKept: true,
  ...more,
})

describe('a hit among the lanes', () => {
  const props = {
    scales: { out: scale, source: scale },
    dark: true,
    topPx: 60,
    fittedPx: 200,
    ribbonsPx: 100,
  }
  it('is said in words, and gone to', async () => {
    const thread = mount(HitThreads, { props: { ...props, hits: [landed({ label: 'Door' })] } })
    expect(thread.get('button').attributes('aria-label')).toBe('Door, beat one, must: on the frame')
    await thread.get('button').trigger('click')
    expect(thread.emitted('seek')).toEqual([[10]])
  })
  it('is not drawn where it is not in view', () => {
    const hits = [landed({ label: 'Door', askedS: 110 }), landed({ label: 'Title' })]
    const labels = mount(HitThreads, { props: { ...props, hits } }).findAll('button')
    expect(labels.map((b) => b.text())).toEqual(['1Title'])
  })
  it('says where it is missed', () => {
    const hit = landed({ isKept: false, landedS: null, errorFrames: null })
    const thread = mount(HitThreads, { props: { ...props, hits: [hit] } })
    expect(thread.get('button').attributes('aria-label')).toContain('missed, nothing of its kind sounds')
  })
})

describe('the report', () => {
  const props = {
    plan,
    hits: [],
    problem: '',
    near: null,
    rate,
    instead: [],
    isOutdated: false,
    said: [] as SeamSaid[],
    nKept: 0,
  }
  it('says seams, speed and the exact length in words', () => {
    const text = mount(FitReport, { props, global: { stubs } }).text()
    expect(text).toContain('One seam, at most 0.80 % slower. Exactly 1:12.500: 7,250 samples at 100 Hz.')
    expect(text).toContain('00:00:10:00')
  })
  it('says what became of the hits, and goes to one', async () => {
    const hits = [
      landed({ label: 'Door' }),
      landed({ label: 'Title', askedS: 60, errorFrames: -3.26, isKept: false }),
    ]
    const report = mount(FitReport, { props: { ...props, hits }, global: { stubs } })
    expect(report.text()).toContain('1 of 2 hits met. Exactly')
    const rows = report.get('[aria-label=Hits]').findAll('tbody tr')
    expect(rows.map((r) => r.findAll('td')[2]!.text())).toEqual(['on the frame', 'missed: 3.3 frames early'])
    await rows[1]!.get('button').trigger('click')
    expect(report.emitted('seek')).toEqual([[60]])
  })
  it('says what the tail made up for', () => {
    const faded = { ...plan, fade_out: { n_samples: 130, shape: 'cosine' as const } }
    expect(mount(FitReport, { props: { ...props, plan: faded }, global: { stubs } }).text()).toContain(
      'its ring-out faded over 1.30 s.',
    )
  })
  it('keeps a seam or leaves it out, and says whether those that were kept are there', async () => {
    const said = { leaves_samples: 1, enters_samples: 2, wish: 'kept', verdict: 'passed' } as SeamSaid
    const report = mount(FitReport, { props: { ...props, said: [said], nKept: 1 }, global: { stubs } })
    expect(report.text()).toContain('The kept seam is there.')
    expect(report.get('[aria-label=Seams]').text()).toContain('heard: good')
    const keep = report.get('[aria-label="Keep seam 1"]')
    expect(keep.attributes('aria-pressed')).toBe('true')
    await keep.trigger('click')
    await report.get('[aria-label="Another join for seam 1"]').trigger('click')
    expect([report.emitted('keep'), report.emitted('forbid')]).toEqual([[[said]], [[said]]])
  })
  it('offers lengths that work where one does not', async () => {
    const report = mount(FitReport, {
      props: { ...props, problem: 'Too short.', instead: [10 * 705_600_000] },
      global: { stubs },
    })
    expect(report.get('[role=alert]').text()).toBe('Too short.')
    await report.get('button').trigger('click')
    expect(report.emitted('setLength')).toEqual([[10 * 705_600_000]])
  })
})

describe('the end of the cue', () => {
  const props = {
    scale: { startS: 0, pxPerS: 10, widthPx: 900 },
    lengthFlicks: 72 * 705_600_000,
    rate,
    heightPx: 100,
  }
  it('moves by frames with the arrow keys', async () => {
    const handle = mount(EndHandle, { props })
    await handle.trigger('keydown', { key: 'ArrowRight' })
    await handle.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    const frame = 705_600_000 / 25
    expect(handle.emitted('setLength')).toEqual([[1801 * frame], [1790 * frame]])
    expect(handle.attributes('aria-valuetext')).toBe('00:01:12:00')
  })
  it('tries whole frames while it is dragged and sets the last one', async () => {
    const handle = mount(EndHandle, { props })
    ;(handle.element as HTMLElement).setPointerCapture = vi.fn()
    await handle.trigger('pointerdown', { button: 0, clientX: 720, pointerId: 1 })
    await handle.trigger('pointermove', { clientX: 700.3 })
    await handle.trigger('pointerup', { clientX: 700.3 })
    const tried = handle.emitted('tryLength')![0]![0] as number
    expect(tried % (705_600_000 / 25)).toBe(0)
    expect(tried / 705_600_000).toBeCloseTo(70.04, 2)
    expect(handle.emitted('setLength')).toEqual([[tried]])
  })
})
