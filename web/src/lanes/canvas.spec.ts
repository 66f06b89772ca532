import type { Chart } from '@/api/client'
import type { Piece } from '@/drawing/layout'
import type { Peaks } from '@/drawing/peaks'
import { usePainting } from '@/fit/usePainting'
import { useSourceView } from '@/fit/useSourceView'
import { useTrackPainting } from '@/gather/useTrackPainting'
import { sized } from '@/app/stubs.mock'
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, defineComponent, h, nextTick, ref, shallowRef } from 'vue'
import { useLaneStack, type LaneStack } from './useLaneStack'

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
