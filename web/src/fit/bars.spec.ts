import type { Chart, Asks, CueFit, HitChoices, Plan } from '@/api/client'
import { subjectKeys } from '@/desks/workbench'
import { barUnder, heardBars, thinned } from '@/drawing/heardBars'
import { landedHits } from '@/drawing/hits'
import { heldSpans } from '@/drawing/speeds'
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { mockServer } from '@/api/server.mock'
import BarStrip from './BarStrip.vue'
import FollowMap from './FollowMap.vue'
import HitBars from './HitBars.vue'

const RATE = 1000
/** Bars of two seconds, in three. */
const chart = {
  rate: RATE,
  free_time: false,
  tempo_bpm: 90,
  beats_per_bar: 3,
  beats: [...Array(30).keys()].map((k) => (k * 2000) / 3),
  beat_in_bar: [...Array(30).keys()].map((k) => k % 3),
} as unknown as Chart
const hit = (asked: number, source: number) => ({
  asked_samples: asked,
  landed_samples: asked,
  source_samples: source,
  kind: 'downbeat',
  weight: 'must',
  tolerance_samples: 20,
  label: '',
})
/** Ten seconds of the track in nine, and then four at its own speed, from a place further on. */
const plan = {
  rate: RATE,
  target_samples: 13000,
  landing: { kind: 'fade', last_hit_samples: null },
  hits: [hit(3600, 4000)],
  passages: [
    {
      pins: [
        { source_samples: 0, out_samples: 0 },
        { source_samples: 10000, out_samples: 9000 },
      ],
    },
    {
      pins: [
        { source_samples: 14000, out_samples: 9000 },
        { source_samples: 18000, out_samples: 13000 },
      ],
    },
  ],
} as unknown as Plan
const spotted = [{ id: 7, at_frames: 90, label: 'Door', kind: 'downbeat' }]
const hits = landedHits(plan, spotted as never, 0, { num: 25, den: 1, drop_frame: false })
const choice = (bar: number, before_pct: number, beat = 1) => ({
  source_samples: (bar - 1) * 2000,
  bar,
  beat,
  beats_before: (bar - 1) * 3 + beat - 1,
  before_pct,
  after_pct: -before_pct,
})
const choices = [
  {
    asked_samples: 3600,
    source_samples: 4000,
    held_before_samples: 0,
    held_after_samples: null,
    choices: [choice(2, -44.4), choice(3, 11.1), choice(4, 18, 2)],
  },
] as HitChoices[]
const scale = { startS: 0, pxPerS: 50, widthPx: 800 }

describe('bars as they are heard', () => {
  it('lie where their passages bring them, by the number that the track gives them', () => {
    const bars = heardBars(plan, chart)
    expect(bars.map((b) => [b.bar, Number(b.atS.toFixed(2))])).toEqual([
      [1, 0],
      [2, 1.8],
      [3, 3.6],
      [4, 5.4],
      [5, 7.2],
      [8, 9],
      [9, 11],
    ])
    expect(heardBars(plan, { ...chart, free_time: true })).toEqual([])
  })
  it('are taken hold of only where they can be told apart', () => {
    const bars = heardBars(plan, chart)
    expect(barUnder(bars, scale, 183)!.bar).toBe(3)
    expect(barUnder(bars, scale, 220)).toBeNull()
    expect(barUnder(bars, { ...scale, pxPerS: 2 }, 7.2)).toBeNull()
    expect(thinned(bars, { ...scale, pxPerS: 2 })).toEqual({ drawn: 2, numbered: 16 })
  })
  it('have one speed from what is held to what is held next', () => {
    const spans = heldSpans(plan).map((s) => [s.outInS, s.outOutS, Number(s.changePct.toFixed(2))])
    expect(spans).toEqual([
      [0, 9, 11.11],
      [9, 13, 0],
    ])
  })
})

describe('a bar that is dragged', () => {
  function strip(more: object = {}) {
    const props = { plan, chart, hits, choices, pinned: [], problem: '', scale, dark: true, ...more }
    const made = mount(BarStrip, { props })
    ;(made.element as HTMLElement).setPointerCapture = vi.fn()
    return made
  }
  it('is tried on the hit that it is held over, and pinned when it is let go there', async () => {
    const made = strip()
    await made.trigger('pointerdown', { button: 0, clientX: 270 })
    await made.trigger('pointermove', { clientX: 230 })
    expect(made.emitted('tryPin')).toBeUndefined()
    expect(made.get('[role=status]').text()).toBe('bar 4')
    await made.trigger('pointermove', { clientX: 185 })
    expect(made.emitted('tryPin')).toEqual([[hits[0], 6000]])
    await made.trigger('pointermove', { clientX: 181 })
    expect(made.emitted('tryPin')).toHaveLength(1)
    await made.trigger('pointerup')
    expect(made.emitted('pin')).toEqual([[hits[0], 6000]])
  })
  it('says what it does to the speed on either side, or that it cannot be had', async () => {
    const made = strip()
    await made.trigger('pointerdown', { button: 0, clientX: 180 })
    await made.trigger('pointermove', { clientX: 190 })
    expect(made.get('[role=status]').text()).toBe('bar 3 on Door: +11.10 % before, −11.10 % after')
    await made.setProps({ problem: 'Too far.' })
    expect(made.get('[role=status]').text()).toBe('bar 3 on Door: cannot be had')
  })
  it('does nothing when it is drawn away from its hit, or given up', async () => {
    const made = strip()
    await made.trigger('pointerdown', { button: 0, clientX: 270 })
    await made.trigger('pointermove', { clientX: 180 })
    await made.trigger('pointermove', { clientX: 320 })
    expect(made.emitted('giveUp')).toHaveLength(1)
    await made.trigger('pointerup')
    await made.trigger('pointerdown', { button: 0, clientX: 270 })
    await made.trigger('pointermove', { clientX: 180 })
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    await made.trigger('pointerup')
    expect(made.emitted('giveUp')).toHaveLength(2)
    expect(made.emitted('pin')).toBeUndefined()
  })
  it('is gone to where it was only pressed', async () => {
    const made = strip()
    await made.trigger('pointerdown', { button: 0, clientX: 271 })
    await made.trigger('pointerup')
    expect(made.emitted('seek')).toEqual([[5.4]])
  })
})

describe('the bars on the hits', () => {
  function table(asks: Asks | null, fit = { choices } as CueFit) {
    const cue = ref({ id: 1, asks })
    const updateCue = vi.fn<(asked: object) => Promise<string>>(async () => '')
    const change = (make: (now: never) => object) => updateCue(make(cue.value as never))
    const attempt = (work: () => unknown) => work()
    const bench = { cue, chart: ref(chart), message: ref(''), updateCue: change, attempt }
    const provide = Object.fromEntries(Object.values(subjectKeys).map((key) => [key as symbol, bench]))
    return {
      updateCue,
      made: mount(HitBars, {
        props: { fit, hits, chart, method: 'bend', followsMap: false },
        global: { provide },
      }),
    }
  }
  it('are where the map says that the track follows, until it is let go', async () => {
    const { made } = table({ method: 'bend' } as Asks)
    await made.setProps({ followsMap: true })
    expect(made.findAll('table')).toHaveLength(0)
    expect(made.text()).toContain('The track follows a tempo map')
    const updateCue = vi.fn()
    const cue = ref({ id: 5, asks: { method: 'bend', held_bars: [{}, {}], give_pct: 3 } })
    const desks = {
      [subjectKeys.session as symbol]: {
        attempt: (work: () => Promise<unknown>) => work(),
        message: ref(''),
      },
      [subjectKeys.cueDesk as symbol]: { cue, updateCue },
      [subjectKeys.fitDesk as symbol]: { chart: ref(chart) },
    }
    const asked = mockServer(() => ({ json: {} }))
    const follow = mount(FollowMap, { props: { hasMap: true }, global: { provide: desks } })
    expect(follow.text()).toContain('2 bars of the track follow a map')
    await follow.findAll('button')[0]!.trigger('click')
    const input = follow.get<HTMLInputElement>('[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File(['MThd'], 'cue.mid')] })
    await input.trigger('change')
    await vi.waitFor(() =>
      expect(asked.map((one) => one.path)).toEqual(['/api/cues/5/follow', '/api/cues/5/tempo-map']),
    )
    await follow.findAll('button')[1]!.trigger('click')
    expect(updateCue.mock.calls[0]![0](cue.value)).toEqual({ asks: { method: 'bend', give_pct: 3 } })
    vi.unstubAllGlobals()
  })

  it('say what every other one would do, and one is pinned by choosing it', async () => {
    const { made, updateCue } = table({ method: 'bend' } as Asks)
    const select = made.get<HTMLSelectElement>('[aria-label="Bar on Door"]')
    expect(select.findAll('option').map((o) => o.text())).toEqual([
      'bar 2: one bar fewer · −44.40 % before, +44.40 % after',
      'bar 3',
      'bar 4, beat 2: 4 beats more · +18.00 % before, −18.00 % after',
    ])
    expect(made.text()).toContain('+11.10 % · 100.0 bpm')
    expect(made.text()).toContain('2 bars')
    const tried = mockServer(() => ({ json: { plan } }))
    await select.setValue(String(2000))
    const pinned_bars = [{ hit_id: 7, source_samples: 2000 }]
    await vi.waitFor(() => expect(updateCue).toHaveBeenCalledWith({ asks: { method: 'bend', pinned_bars } }))
    expect(tried.map((one) => one.body)).toEqual([{ asks: { method: 'bend', pinned_bars } }])
  })
  it('are let go of, kept off, and allowed again', async () => {
    const asked = {
      pinned_bars: [{ hit_id: 7, source_samples: 4000 }],
      forbidden_bars: [{ hit_id: 7, source_samples: 0 }],
    } as Asks
    const { made, updateCue } = table(asked)
    const pin = made.get('[aria-label="Pin the bar on Door"]')
    expect(pin.attributes('aria-pressed')).toBe('true')
    await pin.trigger('click')
    expect(updateCue).toHaveBeenLastCalledWith({ asks: { forbidden_bars: asked.forbidden_bars } })
    await made.get('[aria-label="Another bar on Door"]').trigger('click')
    const both = [...asked.forbidden_bars!, { hit_id: 7, source_samples: 4000 }]
    expect(updateCue).toHaveBeenLastCalledWith({ asks: { forbidden_bars: both } })
    await made
      .findAll('button')
      .find((b) => b.text() === 'allow 1 again')!
      .trigger('click')
    expect(updateCue).toHaveBeenLastCalledWith({ asks: { pinned_bars: asked.pinned_bars } })
  })
  it('a bar that moves to another hit is let go of where it was', async () => {
    const asked = { pinned_bars: [{ hit_id: 3, source_samples: 2003 }] } as Asks
    const { made, updateCue } = table(asked)
    await made.get('select').setValue('2000')
    const pinned_bars = [{ hit_id: 7, source_samples: 2000 }]
    await vi.waitFor(() => expect(updateCue).toHaveBeenCalledWith({ asks: { pinned_bars } }))
  })
  it.each([
    ['the others keep theirs', 0, [7, 8]],
    ['or not, where that cannot be had', 500, [8]],
  ])('a bar is moved: %s', async (_, offBy, ids) => {
    const other = { ...hit(7200, 8000), landed_samples: 7200 }
    const both = { ...plan, hits: [hit(3600, 4000), other] } as unknown as Plan
    const two = landedHits(
      both,
      [...(spotted as object[]), { ...spotted[0], id: 8, at_frames: 180 }] as never,
      0,
      {
        num: 25,
        den: 1,
        drop_frame: false,
      },
    )
    const { made, updateCue } = table({ method: 'bend' } as Asks)
    await made.setProps({
      hits: two,
      fit: { choices: [...choices, { ...choices[0]!, asked_samples: 7200 }] } as CueFit,
    })
    const landed = [{ ...hit(3600, 4000), landed_samples: 3600 + offBy }, other]
    mockServer(() => ({ json: { plan: { ...plan, hits: landed } } }))
    await made.findAll('select')[1]!.setValue('2000')
    await vi.waitFor(() => expect(updateCue).toHaveBeenCalled())
    const { asks } = (updateCue.mock.calls as unknown as [[{ asks: Asks }]])[0][0]
    expect(asks.pinned_bars!.map((bar) => bar.hit_id)).toEqual(ids)
  })
  it('are not to be had in free time, and without hits that want a beat', async () => {
    const { made } = table(null)
    await made.setProps({ hits: [] })
    expect(made.text()).toContain('Mark some on Spot')
    await made.setProps({ hits, method: 'loop' })
    expect(made.text()).toContain('does not aim at hits')
    await made.setProps({ chart: { ...chart, free_time: true } as Chart })
    expect(made.text()).toContain('free time')
  })
})
