import type { Chart, Plan } from '@/api/client'
import { levelsOf } from '@/drawing/fades'
import type { Piece, Scales } from '@/drawing/layout'
import { paintFitted, paintLetters, paintSource } from '@/drawing/painters'
import type { Peaks } from '@/api/peaks'
import { useCanvas } from '@/lanes/useCanvas'
import { useResizeObserver } from '@vueuse/core'
import { computed, reactive, type Ref } from 'vue'

interface Painted {
  fitted: Ref<HTMLCanvasElement | null>
  source: Ref<HTMLCanvasElement | null>
  scales: Ref<Scales>
  plan: Ref<Plan | null>
  pieces: Ref<Piece[]>
  peaks: Ref<Peaks>
  chart: Ref<Chart>
  dark: Ref<boolean>
}

/** Paints the two waveforms of Fit. Returns where the lanes lie: how far it is to the end of the upper, and on to the lower. */
export function usePainting({ fitted, source, scales, plan, pieces, peaks, chart, dark }: Painted) {
  const heightsPx = reactive({ ribbons: 0, toFitted: 0 })
  const shown = [scales, pieces, peaks, chart]
  const levelAt = computed(() => (plan.value ? levelsOf(plan.value) : () => 1))
  useCanvas(fitted, dark, shown, (paper) =>
    paintFitted(paper, scales.value.out, peaks.value, pieces.value, levelAt.value),
  )
  useCanvas(source, dark, shown, (paper) => {
    paintSource(paper, scales.value.source, peaks.value, chart.value, pieces.value)
    paintLetters(paper, scales.value.source, chart.value)
  })

  const lanes = [fitted, source].map((canvas) => computed(() => canvas.value?.parentElement))
  useResizeObserver(lanes, () => {
    const [above, below] = lanes.map((lane) => lane.value)
    if (!above || !below) return
    heightsPx.toFitted = above.offsetTop + above.clientHeight
    heightsPx.ribbons = below.offsetTop - heightsPx.toFitted
  })
  return heightsPx
}
