import type { KeyAction } from '@/keys/useKeys'
import { toS } from '@/drawing/scale'
import { computed, ref, watch, type Ref } from 'vue'
import { useView } from './useView'

/** One lane of a stack: so many pixels high, or by its share of what is left. */
export interface Lane {
  key: string
  name?: string
  title?: string
  px?: number
  share?: number
}

/** Where the sound is now; lanes follow it without being drawn anew. */
export interface LaneClock {
  readonly nowS: Readonly<Ref<number>>
}

export type View = ReturnType<typeof useView>
export type LaneStack = ReturnType<typeof useLaneStack>

/** Of the wheel: so many pixels are a factor of e. */
const ZOOM_PX = 300

/**
 * The one time axis that the lanes of a page share: zoom, scroll, what is in view, and the moment under the pointer.
 * `wholeS`: what "everything" is; `rate`: of the samples, which limits how near one can go. The view follows the clock.
 */
export function useLaneStack(clock: LaneClock, wholeS: Ref<number>, rate: Ref<number>, lanes: Ref<Lane[]>) {
  const area = ref<HTMLElement | null>(null)
  const view = useView(area, wholeS, rate)
  const leftOf = () => area.value?.getBoundingClientRect().left ?? 0
  const rows = computed(() =>
    lanes.value.map((l) => (l.px === undefined ? `minmax(0, ${l.share ?? 1}fr)` : `${l.px}px`)).join(' '),
  )
  watch(clock.nowS, (now) => view.follow(now), { flush: 'sync' })

  /** The wheel scrolls; with Ctrl it zooms around the pointer. */
  function turn(event: WheelEvent, turned: View = view): void {
    if (event.ctrlKey || event.metaKey)
      turned.zoom(Math.exp(-event.deltaY / ZOOM_PX), event.clientX - leftOf())
    else turned.scrollBy(event.deltaX || event.deltaY)
  }
  return {
    area,
    view,
    clock,
    wholeS,
    lanes,
    rows,
    turn,
    scale: view.scale,
    secondsAt: (event: MouseEvent, seen: View = view) => toS(seen.scale.value, event.clientX - leftOf()),
    /** The line of the grid at which a lane begins, for what lies over several of them. */
    lineOf: (key: string) => lanes.value.findIndex((l) => l.key === key) + 1,
  }
}

type Zoomed = Pick<View, 'zoom' | 'showAll'>

/** The keys that every page with lanes has. */
export function laneKeys(lanes: () => Zoomed | null | undefined): KeyAction[] {
  return [
    {
      key: '+',
      keys: '+ −',
      words: 'Zoom in and out (also Ctrl and wheel)',
      run: () => lanes()?.zoom(1.5),
    },
    { key: '=', run: () => lanes()?.zoom(1.5) },
    { key: '-', run: () => lanes()?.zoom(1 / 1.5) },
    { key: 'a', keys: 'A', words: 'Show all', run: () => lanes()?.showAll() },
  ]
}
