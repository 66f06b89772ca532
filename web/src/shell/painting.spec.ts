import type { Chart, Shot } from '@/api/client'
import type { Piece } from '@/drawing/layout'
import type { Peaks } from '@/api/peaks'
import { usePainting } from '@/fit/usePainting'
import { useSourceView } from '@/fit/useSourceView'
import { useTrackPainting } from '@/gather/useTrackPainting'
import { useStrip } from '@/spot/useStrip'
import { sized } from '@/fields/stubs.mock'
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, defineComponent, h, nextTick, ref, shallowRef } from 'vue'
import { useLaneStack, type LaneStack } from '@/lanes/useLaneStack'

const WIDTH_PX = 600
const chart = {
  rate: 100,
  n_samples: 6000,
  meter: '4/4',
  beats_per_bar: 4,
  beats: [0, 50, 100, 150, 200, 250],
  beat_in_bar: [0, 1, 2, 3, 0, 1],
  trim_start_samples: 0,
  trim_end_samples: 6000,
  sections: [
    { label: 'A', start_samples: 0, end_samples: 3000 },
    { label: 'B', start_samples: 3000, end_samples: 6000 },
  ],
} as unknown as Chart
const level = {
  samplesPerPoint: 100,
  low: new Float32Array(60).fill(-0.7),
  high: new Float32Array(60).fill(0.7),
}
const peaks: Peaks = { rate: 100, levels: [level] }
const piece = (outInS: number, outOutS: number, sourceInS: number): Piece => ({
  outInS,
  outOutS,
  sourceInS,
  sourceOutS: sourceInS + outOutS - outInS,
  label: 'A',
  passage: 0,
})

/** What was painted, by the name of what was called; every lane is as wide as a test needs it. */
let painted: string[]
beforeEach(() => {
  painted = []
  vi.useFakeTimers({ toFake: ['requestAnimationFrame', 'cancelAnimationFrame'] })
  sized(WIDTH_PX, 80)
  const context = new Proxy({} as Record<string, unknown>, {
    get: (kept, name: string) =>
      kept[name] ?? ((...of: unknown[]) => void painted.push([name, ...of].join(' '))),
  })
  vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(context as never)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})
/** A page with two lanes of a canvas each. */
async function page(use: (above: typeof canvases.above, below: typeof canvases.below) => void) {
  const shown = mount(
    defineComponent(() => {
      use(canvases.above, canvases.below)
      return () =>
        h('main', [
          h('div', h('canvas', { ref: canvases.above })),
          h('div', h('canvas', { ref: canvases.below })),
        ])
    }),
    { attachTo: document.body },
  )
  await nextTick()
  await nextTick()
  return shown
}
const canvases = { above: ref<HTMLCanvasElement | null>(null), below: ref<HTMLCanvasElement | null>(null) }
const frame = async () => {
  await nextTick()
  vi.advanceTimersByTime(20)
}
const letters = () => painted.filter((p) => p.startsWith('fillText')).map((p) => p.split(' ')[1])

describe('what is painted', () => {
  it('is painted once a frame when it changes, at the density of the screen, and not otherwise', async () => {
    const scale = shallowRef({ startS: 0, pxPerS: 10, widthPx: WIDTH_PX })
    const dark = ref(true)
    const shown = await page((above) => useTrackPainting(above, scale, ref(peaks), ref(chart), dark))
    await frame()
    const times = () => painted.filter((p) => p.startsWith('clearRect')).length
    expect(times()).toBe(1)
    expect(painted).toContain(`clearRect 0 0 ${WIDTH_PX} 80`)
    await frame()
    expect(times()).toBe(1)
    for (const startS of [1, 2, 3]) scale.value = { ...scale.value, startS }
    dark.value = false
    await frame()
    expect(times()).toBe(2)
    shown.unmount()
    scale.value = { ...scale.value, startS: 9 }
    await frame()
    expect(times()).toBe(2)
  })

  it('of a fit is its music above and the track below, each with its letters', async () => {
    const pieces = shallowRef([piece(0, 20, 0), { ...piece(20, 40, 35), label: 'B' }])
    const scale = { startS: 0, pxPerS: 10, widthPx: WIDTH_PX }
    const shown = await page((fitted, source) =>
      usePainting({
        fitted,
        source,
        scales: shallowRef({ out: scale, source: scale }),
        plan: shallowRef(null),
        pieces,
        peaks: shallowRef(peaks),
        chart: shallowRef(chart),
        dark: ref(true),
      }),
    )
    await frame()
    expect(letters()).toEqual(['A', 'B', 'A', 'B'])
    painted = []
    pieces.value = [piece(0, 40, 0)]
    await frame()
    expect(letters()).toEqual(['A', 'A', 'B'])
    shown.unmount()
  })
})

describe('the strip of a picture', () => {
  const rate = { num: 25, den: 1, drop_frame: false }
  const shots = [0, 500, 1000].map((start_frames, i) => ({
    start_frames,
    end_frames: start_frames + 500,
    name: `${i}`,
  })) as unknown as Shot[]

  it('has its shots in turns and a line at every cut in view, where there is no film', async () => {
    const scale = shallowRef({ startS: 0, pxPerS: 10, widthPx: WIDTH_PX })
    const picture = shallowRef({ film: null, rate, length_frames: 1500 })
    const shown = await page((above) => useStrip(above, scale, picture, shallowRef(shots), ref(true)))
    await frame()
    const filled = () => painted.filter((p) => p.startsWith('fillRect'))
    expect(filled()).toEqual([
      'fillRect 0 0 200 80',
      'fillRect 200 0 200 80',
      'fillRect 400 0 200 80',
      'fillRect 0 0 1 80',
      'fillRect 200 0 1 80',
      'fillRect 400 0 1 80',
    ])
    painted = []
    scale.value = { startS: 45, pxPerS: 40, widthPx: WIDTH_PX }
    await frame()
    expect(filled()).toEqual(['fillRect -200 0 800 80'])
    shown.unmount()
  })

  it('waits for the small pictures of a film, and forgets them when another one is shown', async () => {
    const images: { src: string; onload?: () => void }[] = []
    vi.stubGlobal(
      'Image',
      class {
        src = ''
        onload?: () => void
        constructor() {
          images.push(this)
        }
      },
    )
    const thumbs = { columns: 4, count: 8, every_frames: 200, width_px: 160, height_px: 90 }
    const film = (n: number) => ({ thumbs_url: `/thumbs/${n}`, thumbs }) as never
    const picture = shallowRef({ film: film(1), rate, length_frames: 1500 })
    const scale = shallowRef({ startS: 0, pxPerS: 10, widthPx: WIDTH_PX })
    const shown = await page((above) => useStrip(above, scale, picture, shallowRef(shots), ref(true)))
    picture.value = { ...picture.value, film: film(2) }
    await nextTick()
    images[0]!.onload!()
    await frame()
    expect(painted.some((p) => p.startsWith('drawImage'))).toBe(false)
    images[1]!.onload!()
    await frame()
    expect(painted.some((p) => p.startsWith('drawImage'))).toBe(true)
    expect(images.map((image) => image.src)).toEqual(['/thumbs/1', '/thumbs/2'])
    shown.unmount()
  })
})

describe('the track below a fit', () => {
  it('is shown whole with the whole picture, and as near as the picture is where that is looked at', async () => {
    let view!: ReturnType<typeof useSourceView>
    let stack!: LaneStack
    const pieces = shallowRef([piece(0, 30, 0), piece(30, 60, 500)])
    const shown = await page((above) => {
      stack = useLaneStack({ nowS: ref(0) }, ref(60), ref(48_000), ref([{ key: 'fitted', share: 1 }]))
      stack.area.value = above.value?.parentElement ?? null
      view = useSourceView(
        stack,
        computed(() => 600),
        pieces,
        ref(48_000),
      )
    })
    stack.area.value = canvases.above.value!.parentElement
    await nextTick()
    expect(view.scales.value.source.pxPerS).toBeCloseTo(WIDTH_PX / 600, 6)
    stack.view.zoomTo(45, 10)
    const { startS, pxPerS } = view.scales.value.source
    expect([startS < 510, startS + WIDTH_PX / pxPerS > 520]).toEqual([true, true])
    expect(WIDTH_PX / pxPerS).toBeCloseTo(13, 1)
    stack.view.showAll()
    expect(view.scales.value.source.pxPerS).toBeCloseTo(WIDTH_PX / 600, 6)
    shown.unmount()
  })
})
