import { clamped, endS, toPx, zoomed, type TimeScale } from '@/drawing/scale'
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'

/** Zoom and scroll of the one time axis. `wholeS` is what "everything" is; `rate` limits how near one can go. */
export function useView(element: Ref<HTMLElement | null>, wholeS: Ref<number>, rate: Ref<number>) {
  const size = useElementSize(element)
  const widthPx = computed(() => Math.floor(size.width.value))
  const isWhole = ref(true)
  const free = ref<TimeScale>({ startS: 0, pxPerS: 10, widthPx: 0 })
  const scale = computed<TimeScale>(() =>
    isWhole.value
      ? { startS: 0, pxPerS: Math.max(1, widthPx.value) / wholeS.value, widthPx: widthPx.value }
      : clamped({ ...free.value, widthPx: widthPx.value }, wholeS.value),
  )
  const mostPxPerS = computed(() => rate.value / 64) // the finest peaks: one a pixel

  function set(next: TimeScale): void {
    free.value = next
    isWhole.value = next.pxPerS <= (next.widthPx / wholeS.value) * 1.001
  }

  function zoom(factor: number, aroundPx = widthPx.value / 2): void {
    set(zoomed(scale.value, factor, aroundPx, wholeS.value, mostPxPerS.value))
  }

  function scrollBy(px: number): void {
    set(clamped({ ...scale.value, startS: scale.value.startS + px / scale.value.pxPerS }, wholeS.value))
  }

  /** Show so many seconds around a moment. */
  function zoomTo(centreS: number, spanS: number): void {
    const pxPerS = Math.min(widthPx.value / spanS, mostPxPerS.value)
    const startS = centreS - widthPx.value / pxPerS / 2
    set(clamped({ startS, pxPerS, widthPx: widthPx.value }, wholeS.value))
  }

  /** Scroll so that a moment is in view. */
  function follow(seconds: number): void {
    if (isWhole.value) return
    const px = toPx(scale.value, seconds)
    if (px < 0 || px > widthPx.value * 0.95) {
      set(
        clamped(
          { ...scale.value, startS: seconds - (endS(scale.value) - scale.value.startS) * 0.1 },
          wholeS.value,
        ),
      )
    }
  }

  watch(wholeS, () => set(clamped(scale.value, wholeS.value)))
  return { scale, isWhole, zoom, scrollBy, zoomTo, follow, showAll: () => (isWhole.value = true) }
}
