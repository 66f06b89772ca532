import type { Chart } from '@/api/client'
import type { Piece, Scales } from '@/drawing/layout'
import { paintFitted, paintSource, prepared } from '@/drawing/painters'
import type { Peaks } from '@/drawing/peaks'
import { onScopeDispose, reactive, watch, type Ref } from 'vue'

interface Painted {
  fitted: Ref<HTMLCanvasElement | null>
  source: Ref<HTMLCanvasElement | null>
  scales: Ref<Scales>
  pieces: Ref<Piece[]>
  peaks: Ref<Peaks>
  chart: Ref<Chart>
  dark: Ref<boolean>
}

/** Repaints the two waveforms when anything they show changes, at most once a screen frame. Returns the lanes' heights. */
export function usePainting(painted: Painted) {
  const heightsPx = reactive({ ribbons: 0, toFitted: 0 })
  let frame = 0

  function paint(): void {
    frame = 0
    const { fitted, source, scales, pieces, peaks, chart, dark } = painted
    const widthPx = scales.value.out.widthPx
    const above = fitted.value?.parentElement
    const below = source.value?.parentElement
    if (!fitted.value || !source.value || !above || !below || !widthPx) return
    const [fittedPx, sourcePx] = [above.clientHeight, below.clientHeight]
    heightsPx.ribbons = below.offsetTop - above.offsetTop - fittedPx
    heightsPx.toFitted = above.offsetTop + fittedPx
    const paper = prepared(fitted.value, widthPx, fittedPx, dark.value)
    if (paper) paintFitted(paper, scales.value.out, peaks.value, pieces.value)
    const under = prepared(source.value, widthPx, sourcePx, dark.value)
    if (under) paintSource(under, scales.value.source, peaks.value, chart.value, pieces.value)
  }

  function soon(): void {
    frame ||= requestAnimationFrame(paint)
  }

  const observer = new ResizeObserver(soon)
  watch(painted.fitted, (canvas) => canvas?.parentElement && observer.observe(canvas.parentElement), {
    flush: 'post',
  })
  watch(
    [
      painted.fitted,
      painted.source,
      painted.scales,
      painted.pieces,
      painted.peaks,
      painted.chart,
      painted.dark,
    ],
    soon,
    {
      immediate: true,
      flush: 'post',
    },
  )
  onScopeDispose(() => {
    observer.disconnect()
    cancelAnimationFrame(frame)
  })
  return heightsPx
}
