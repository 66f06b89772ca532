import type { Tempo } from '@/api/client'
import { queryClient } from '@/api/queries'
import { mockServer, problem, type Asked } from '@/api/server.mock'
import { subjectKeys } from '@/desks/workbench'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref, shallowRef } from 'vue'
import TempoLane from './TempoLane.vue'
import TempoPanel from './TempoPanel.vue'
import { useTempo } from './useTempo'

const download = vi.hoisted(() => vi.fn())
vi.mock('@/asking/download', () => ({ download }))

const landing = (hit_id: number, off_frames: number) => ({
  hit_id,
  bar: hit_id,
  beat: 1,
  off_frames,
  is_met: Math.abs(off_frames) < 1,
})
const tempi = [
  { bpm: 120, meter: 4, starts_s: 0, also_bpm: [60], hits: [landing(1, 0), landing(2, 0.2)] },
  { bpm: 97.5, meter: 4, starts_s: 1.25, also_bpm: [], hits: [landing(1, -2.6), landing(2, 0)] },
  { bpm: 140.25, meter: 3, starts_s: 0, also_bpm: [], hits: [landing(1, 3), landing(2, 4)] },
] as unknown as Tempo[]

describe('the steady tempo of a picture', () => {
  const rate = { num: 25, den: 1, drop_frame: false }
  const hits = ref([
    { id: 1, label: 'Door', at_frames: 50 },
    { id: 2, label: '', at_frames: 150 },
  ])
  const picture = ref({ id: 1, rate, length_frames: 250, start_frames: 0 })
  const inFrames = ref<number | null>(null)
  let asked: Asked[]
  const map = {
    at_s: [1, 1.5, 2, 2.5, 3.5],
    beat_in_bar: [0, 1, 0, 1, 0],
    bpm: [120, 120, 60, 60, 60],
    metres: [{ bar: 1, numerator: 2, denominator: 4 }],
    held: [
      { beat: 0, hit_id: 1 },
      { beat: 3, hit_id: null },
    ],
    hits: [
      {
        ...landing(1, 0),
        choices: [
          { bar: 1, beat: 1, before_bpm: 118, after_bpm: 121 },
          { bar: 2, beat: 1, before_bpm: 140, after_bpm: null },
        ],
      },
      { ...landing(2, 9), choices: [] },
    ],
  }
  let laid: typeof map | null
  let answer: () => { status?: number; json: unknown }
  beforeEach(() => {
    answer = () => ({ json: tempi })
    laid = null
    asked = mockServer((one) => {
      if (/tempo-map.(try|edits)$/.test(one.path)) return { json: map }
      if (!one.path.endsWith('/tempo-map')) return answer()
      if (one.method !== 'GET') laid = one.method === 'DELETE' ? null : map
      return { json: laid }
    })
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    queryClient.clear()
  })
  function open(isOpen = true) {
    const desk = { picture, spotting: { sheet: shallowRef({ hits: hits.value }) }, inOut: { inFrames } }
    const session = { attempt: (work: () => Promise<unknown>) => work() }
    return mount(
      {
        components: { TempoLane, TempoPanel },
        setup() {
          const tempo = useTempo(() => isOpen)
          const scale = { startS: 0, pxPerS: 100, widthPx: 800 }
          return { tempo, click: ref(false), scale, picture, hits }
        },
        template: `
          <TempoPanel v-model:click="click" :tempo="tempo" />
          <TempoLane :tempo="tempo" :picture="picture" :hits="hits" :scale="scale" :dark="true" />`,
      },
      {
        global: {
          plugins: [[VueQueryPlugin, { queryClient }]],
          provide: { [subjectKeys.pictureDesk as symbol]: desk, [subjectKeys.session as symbol]: session },
          stubs: { VBtn: { template: '<button class="save"><slot /></button>' } },
        },
      },
    )
  }

  it('is a table of what meets the hits, the best first', async () => {
    const shown = open()
    await flushPromises()
    const rows = () => shown.findAll('tbody tr').map((r) => r.findAll('td').map((d) => d.text()))
    expect(rows()).toEqual([
      ['120.00', '2 of 2', '0.00 s', '1.1 0', '2.1 +0.2', '60.00'],
      ['97.50', '1 of 2', '1.25 s', '1.1 −2.6', '2.1 0', ''],
      ['140.25', '0 of 2', '0.00 s', '1.1 +3.0', '2.1 +4.0', ''],
    ])
    expect(shown.findAll('th.hit').map((t) => t.text())).toEqual(['Door', 'hit 2'])
    expect(shown.findAll('tr')[2]!.findAll('td')[3]!.attributes('title')).toContain('which is too much')
    await shown.get('th button').trigger('click')
    expect(rows().map((r) => r[0])).toEqual(['97.50', '120.00', '140.25'])
  })

  it('goes through the tempi by keys, and saves the one that is looked at', async () => {
    const shown = open()
    await flushPromises()
    const list = shown.get('.scroll')
    await list.trigger('keydown', { key: 'ArrowDown' })
    expect(shown.get('tr.chosen').text()).toContain('97.50')
    await list.trigger('keydown', { key: 'ArrowUp' })
    await list.trigger('keydown', { key: 'ArrowUp' })
    expect(shown.get('tr.chosen').text()).toContain('120.00')
    await shown.findAll('tbody tr')[1]!.trigger('click')
    await shown.findAll('.save')[0]!.trigger('click')
    const address = (form: string) => `/api/pictures/1/tempo?form=${form}&bpm=97.5&meter=4&starts_s=1.25`
    expect(download).toHaveBeenLastCalledWith(address('.mid'))
    await shown.get('[aria-label="Bars of count-in"]').setValue('2')
    await shown.get('[aria-label="Clicks to a beat"]').setValue('2')
    await shown.findAll('.save')[2]!.trigger('click')
    expect(download).toHaveBeenLastCalledWith(`${address('.wav')}&count_in=2&parts=2&accent=true`)
  })

  it('asks again for another range, metre or first bar', async () => {
    const shown = open()
    await flushPromises()
    inFrames.value = 75
    await shown.get('[aria-label="Beats to a bar"]').setValue('3')
    await shown.get('[aria-label="Where bar one begins"]').setValue('true')
    const slowest = shown.get('[aria-label="Slowest tempo"]')
    await slowest.trigger('focus')
    await slowest.setValue('72,5')
    await slowest.trigger('blur')
    await flushPromises()
    expect(Object.fromEntries(asked.filter((one) => one.path.endsWith('/tempi')).at(-1)!.query)).toEqual({
      low_bpm: '72.5',
      high_bpm: '180',
      meter: '3',
      starts_frames: '75',
    })
    expect(shown.text()).toContain('at the mark in (3.00 s)')
    await shown.get('[aria-label="Beats to a bar"]').setValue('0')
    await flushPromises()
    expect(
      asked
        .filter((one) => one.path.endsWith('/tempi'))
        .at(-1)!
        .query.get('meter'),
    ).toBe('0')
    expect(shown.findAll('tbody tr').map((r) => r.findAll('td')[1]!.text())).toEqual(['4', '4', '3'])
    inFrames.value = null
  })

  const press = async (shown: ReturnType<typeof open>, words: string) => {
    const named = shown.findAll('button').filter((b) => b.text() === words)
    await named.at(-1)!.trigger('click')
    await flushPromises()
  }

  it('is laid on the picture, read from a file instead, saved and taken away', async () => {
    const shown = open()
    await flushPromises()
    expect(shown.text()).toContain('No tempo map lies on this picture.')
    await press(shown, 'Lay on the picture')
    const put = asked.find((one) => one.method === 'PUT')!
    expect(put.body).toEqual({ bpm: 120, meter: 4, starts_s: 0 })
    await vi.waitFor(() => expect(shown.text()).toContain('60.00 to 120.00 bpm, 3 bars, 1 of 2 hits met'))
    expect(shown.findAll('tr.chosen')).toHaveLength(0)
    await press(shown, 'Find a tempo')
    expect(shown.findAll('tr.chosen')).toHaveLength(1)
    await press(shown, "The picture's map")
    await press(shown, 'Bars')
    expect(download).toHaveBeenLastCalledWith('/api/pictures/1/tempo-map/file?form=.csv')
    await press(shown, 'Take away')
    await vi.waitFor(() => expect(shown.text()).toContain('No tempo map lies'))
    const input = shown.get<HTMLInputElement>('[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File(['MThd'], 'cue.mid')] })
    await input.trigger('change')
    await vi.waitFor(() => expect(shown.text()).toContain('3 bars'))
    expect(asked.find((one) => one.method === 'POST')!.query.get('file_name')).toBe('cue.mid')
  })

  it('is changed by the keys: another bar on a hit, held or let go, metre and tempo from a bar on, and bent', async () => {
    laid = map
    const shown = open()
    await flushPromises()
    const edits = () => asked.filter((one) => one.path.endsWith('/edits')).map((one) => one.body)
    const rows = shown.findAll('tbody tr')
    expect(
      rows.map((r) =>
        r
          .findAll('td')
          .map((d) => d.text())
          .slice(2),
      ),
    ).toEqual([
      ['0', 'held', '118.00', '121.00'],
      ['+9.0', 'hold', '–', '–'],
    ])
    const options = rows[0]!.findAll('option').map((o) => o.text())
    expect(options).toEqual(['bar 1', 'bar 2: 140.00 bpm before'])
    await rows[0]!.get('select').setValue('1')
    await rows[0]!.get('button').trigger('click')
    await press(shown, 'let go')
    const type = async (label: string, text: string) => {
      await shown.get(`[aria-label="${label}"]`).setValue(text)
      await shown.get(`[aria-label="${label}"]`).trigger('blur')
    }
    await type('Bar', '2')
    await shown.get('[aria-label="For how many bars"]').setValue('1')
    await type('Beats of the metre', '3')
    await shown.get('[aria-label="Set the metre"]').trigger('click')
    await type('Tempo from this bar', '99,5')
    await shown.get('[aria-label="Set the tempo"]').trigger('click')
    await shown.get('form').trigger('submit')
    await press(shown, 'a curve')
    await flushPromises()
    expect(edits()).toEqual([
      { edit: 'hold', bar: 2, beat: 1, at_frames: 50 },
      { edit: 'let_go', bar: 1, beat: 1 },
      { edit: 'let_go', bar: 2, beat: 2 },
      { edit: 'metre', bar: 2, numerator: 3, denominator: 4, bars: 1 },
      { edit: 'tempo', bar: 2, bpm: 99.5, bars: 1 },
      { edit: 'bend', most_pct: 4, smooth: true },
      { edit: 'shape', smooth: true },
    ])
  })

  it('is drawn bar by bar; one that is dragged is tried, then held on its hit or where it is let go', async () => {
    laid = map
    const shown = open()
    await flushPromises()
    const lane = shown.get('[aria-label="Tempo, bar by bar"]')
    lane.element.getBoundingClientRect = () => ({ left: 0 }) as DOMRect
    lane.element.setPointerCapture = () => undefined
    const at = (type: string, clientX: number) => lane.trigger(type, { clientX, button: 0, pointerId: 1 })
    await at('pointerdown', 200) // bar 2
    await at('pointermove', 160)
    await vi.waitFor(() => expect(lane.text()).toBe('bar 2: 120.00 bpm before, 60.00 after'))
    await at('pointermove', 195) // near the hit at two seconds
    await at('pointerup', 195)
    await flushPromises()
    const sent = (end: string) => asked.filter((one) => one.path.endsWith(end)).map((one) => one.body)
    const hold = (at_frames: number) => ({ edit: 'hold', bar: 2, beat: 1, at_frames })
    expect(sent('/try')).toEqual([hold(40), hold(50)])
    expect(sent('/edits')).toEqual([hold(50)])
    await at('pointerdown', 100)
    await at('pointerup', 100)
    expect(shown.get<HTMLInputElement>('[aria-label="Bar"]').element.value).toBe('1')
  })

  it('says why there is none, and asks nothing while it is closed', async () => {
    answer = () => problem(422, 'tempo_range', 'Ask for a range of at least one bpm.')
    const shown = open()
    await vi.waitFor(() =>
      expect(shown.get('[role=alert]').text()).toBe('Ask for a range of at least one bpm.'),
    )
    asked.length = 0
    queryClient.clear()
    open(false)
    await flushPromises()
    expect(asked.filter((one) => !one.path.endsWith('/tempo-map'))).toEqual([])
  })
})
