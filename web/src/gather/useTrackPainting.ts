import type { Chart } from '@/api/client'
import { paintSource, paintTrackGrid } from '@/drawing/painters'
import type { Peaks } from '@/api/peaks'
import type { TimeScale } from '@/drawing/scale'
import { useCanvas } from '@/lanes/useCanvas'
import type { Ref } from 'vue'

/** Repaints a track's waveform with its grid when anything it shows changes. */
export function useTrackPainting(
  canvas: Ref<HTMLCanvasElement | null>,
  scale: Ref<TimeScale>,
  peaks: Ref<Peaks>,
  chart: Ref<Chart>,
  dark: Ref<boolean>,
): void {
  useCanvas(canvas, dark, [scale, peaks, chart], (paper) => {
    paintSource(paper, scale.value, peaks.value, chart.value, wholeTrack(chart.value))
    paintTrackGrid(paper, scale.value, chart.value)
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
