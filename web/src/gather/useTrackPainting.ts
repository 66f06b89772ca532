import type { Chart } from '@/api/client'
import { paintSource, paintTrackGrid, prepared } from '@/drawing/painters'
import type { Peaks } from '@/drawing/peaks'
import type { TimeScale } from '@/drawing/scale'
import { onScopeDispose, watch, type Ref } from 'vue'

/** Repaints a track's waveform with its grid when anything it shows changes, at most once a screen frame. */
export function useTrackPainting(
  canvas: Ref<HTMLCanvasElement | null>,
  scale: Ref<TimeScale>,
  peaks: Ref<Peaks>,
  chart: Ref<Chart>,
  dark: Ref<boolean>,
): void {
  let frame = 0
  function paint(): void {
    frame = 0
    const lane = canvas.value?.parentElement
    if (!canvas.value || !lane || !scale.value.widthPx) return
    const paper = prepared(canvas.value, scale.value.widthPx, lane.clientHeight, dark.value)
    if (!paper) return
    paintSource(paper, scale.value, peaks.value, chart.value, wholeTrack(chart.value))
    paintTrackGrid(paper, scale.value, chart.value)
  }
  const soon = () => (frame ||= requestAnimationFrame(paint))
  const observer = new ResizeObserver(soon)
  watch(canvas, (now) => now?.parentElement && observer.observe(now.parentElement), { flush: 'post' })
  watch([canvas, scale, peaks, chart, dark], soon, { immediate: true, flush: 'post' })
  onScopeDispose(() => {
    observer.disconnect()
    cancelAnimationFrame(frame)
  })
}

/** What of the track is used, section by section: what lies outside the trim stays faint. */
function wholeTrack(chart: Chart) {
  const [start, end] = [chart.trim_start_samples, chart.trim_end_samples]
  return chart.sections
    .map((s, i) => {
      const from = Math.max(start, i ? s.start_samples : 0)
      const to = Math.min(end, s.end_samples)
      const [inS, outS] = [from / chart.rate, Math.max(from, to) / chart.rate]
      return { sourceInS: inS, sourceOutS: outS, outInS: inS, outOutS: outS, label: s.label, passage: 0 }
    })
    .filter((p) => p.sourceOutS > p.sourceInS)
}
