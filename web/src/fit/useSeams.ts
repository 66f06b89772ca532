import type { Chart, Plan, Seam } from '@/api/client'
import { barAtS } from '@/drawing/layout'
import { computed, type Ref } from 'vue'

const NEAR_S = 0.5

interface Plays {
  readonly nowS: { readonly value: number }
  seek(seconds: number): void
  play(fromS?: number, untilS?: number): Promise<void>
}

/** Going from seam to seam: which comes next, and hearing the two bars around one. */
export function useSeams(plan: Ref<Plan | null>, chart: Ref<Chart | undefined>, player: Plays) {
  let last: Seam | null = null
  const atS = (seam: Seam) => seam.out_samples / (plan.value?.rate ?? 1)

  /** The next seam after where we are, around the end to the first; from a seam that is being heard, the one after it. */
  function next(nowS: number, back: boolean): Seam | null {
    const seams = plan.value?.seams ?? []
    const barS = last && chart.value ? barAtS(chart.value, last.source_to_samples) : 0
    const isNear = last && seams.includes(last) && Math.abs(atS(last) - nowS) < barS + 0.3
    const fromS = isNear ? atS(last!) : nowS
    const ahead = back
      ? seams.filter((s) => atS(s) < fromS - 0.01)
      : seams.filter((s) => atS(s) > fromS + 0.01)
    return (back ? ahead.at(-1) : ahead[0]) ?? (back ? seams.at(-1) : seams[0]) ?? null
  }

  /** The seam that is being heard just now. */
  const near = computed(
    () => plan.value?.seams.find((s) => Math.abs(atS(s) - player.nowS.value) < NEAR_S) ?? null,
  )

  function nearest(nowS: number): Seam | null {
    const seams = plan.value?.seams ?? []
    return [...seams].sort((a, b) => Math.abs(atS(a) - nowS) - Math.abs(atS(b) - nowS))[0] ?? null
  }

  /** One bar before to one bar after. */
  function hear(seam: Seam): void {
    if (!chart.value) return
    last = seam
    const barS = barAtS(chart.value, seam.source_to_samples)
    void player.play(Math.max(0, atS(seam) - barS), atS(seam) + barS)
  }

  return { near, next, nearest, hear }
}
