import { prepared, type Paper } from '@/drawing/painters'
import { useElementSize } from '@vueuse/core'
import { computed, onScopeDispose, watch, type Ref, type WatchSource } from 'vue'

/**
 * Repaints a canvas that fills its lane when its size or anything of `shown` changes, at most once a screen frame. The lane's
 * size is read when it changes, not when something is painted: that would have the page laid out each time.
 */
export function useCanvas(
  canvas: Readonly<Ref<HTMLCanvasElement | null>>,
  dark: Ref<boolean>,
  shown: WatchSource[],
  paint: (paper: Paper) => void,
  font?: string,
): void {
  let frame = 0
  const lane = computed(() => canvas.value?.parentElement)
  const { width, height } = useElementSize(lane)

  function now(): void {
    frame = 0
    const widthPx = Math.floor(width.value)
    const paper =
      canvas.value && widthPx ? prepared(canvas.value, widthPx, height.value, dark.value, font) : null
    if (paper) paint(paper)
  }
  watch([canvas, dark, width, height, ...shown], () => (frame ||= requestAnimationFrame(now)), {
    immediate: true,
    flush: 'post',
  })
  onScopeDispose(() => cancelAnimationFrame(frame))
}
