/** The speed lane on a canvas. */
import type { Plan } from '@/api/client'
import type { SpeedStep } from './layout'
import type { Paper } from './painters'
import { toPx, type TimeScale } from './scale'

const LEAST_NAMED_PX = 60
const LEAST_WITH_TEMPO_PX = 150
const LEAST_PCT = 0.004 // is called no change of speed

/** A change of speed, and the tempo that it makes of the track's own, in words. */
export function speedWords(changePct: number, bpm: number | null): string {
  const change = `${changePct > 0 ? '+' : '−'}${Math.abs(changePct).toFixed(2)} %`
  return bpm === null ? change : `${change} · ${(bpm * (1 + changePct / 100)).toFixed(1)} bpm`
}

/** The change of speed from each held place to the next: the start of a passage, a hit that is met, the last hit, its end. */
export function heldSpans(plan: Plan): SpeedStep[] {
  const held = plan.hits.flatMap((h) => (h.landed_samples == null ? [] : [h.landed_samples]))
  if (plan.landing.last_hit_samples != null) held.push(plan.landing.last_hit_samples)
  const spans: SpeedStep[] = []
  for (const { pins } of plan.passages) {
    const [first, last] = [pins[0]!.out_samples, pins.at(-1)!.out_samples]
    const inside = held.filter((at) => at > first && at < last)
    const ends = [...new Set([first, ...inside, last])].sort((a, b) => a - b)
    ends.slice(1).forEach((until, i) => {
      const from = ends[i]!
      const changePct = 100 * ((sourceOf(pins, until) - sourceOf(pins, from)) / (until - from) - 1)
      const before = spans.at(-1)
      if (before && Math.abs(before.changePct - changePct) < LEAST_PCT) before.outOutS = until / plan.rate
      else spans.push({ outInS: from / plan.rate, outOutS: until / plan.rate, changePct })
    })
  }
  return spans
}

/** The sample of the track that a passage plays at one of the output. */
function sourceOf(pins: Plan['passages'][number]['pins'], out: number): number {
  const after = Math.max(
    1,
    pins.findIndex((p) => p.out_samples >= out),
  )
  const [a, b] = [pins[after - 1]!, pins[after]!]
  const perSample = (b.source_samples - a.source_samples) / (b.out_samples - a.out_samples)
  return a.source_samples + (out - a.out_samples) * perSample
}

/**
 * Changes of speed as bars above and below the track's own, the largest as high as there is room for, and what they come to
 * from one held place to the next in words; `bpm`: the track's own tempo.
 */
export function paintSpeeds(
  paper: Paper,
  scale: TimeScale,
  steps: readonly SpeedStep[],
  spans: readonly SpeedStep[],
  bpm: number | null,
  colors: { bar: string; ink: string },
): void {
  const { context, heightPx, widthPx } = paper
  const middle = Math.floor(heightPx / 2)
  const perPct = (middle - 4) / Math.max(1, ...steps.map((s) => Math.abs(s.changePct)))
  context.globalAlpha = 0.35
  context.fillStyle = colors.ink
  context.fillRect(0, middle, widthPx, 1)
  for (const { outInS, outOutS, changePct } of steps) {
    const [left, right] = [toPx(scale, outInS), toPx(scale, outOutS)]
    if (right < 0 || left > widthPx) continue
    const highPx = Math.max(1, Math.abs(changePct) * perPct)
    context.globalAlpha = 0.75
    context.fillStyle = colors.bar
    context.fillRect(left, changePct > 0 ? middle - highPx : middle, Math.max(1, right - left), highPx)
  }
  context.globalAlpha = 1
  context.fillStyle = colors.ink
  for (const { outInS, outOutS, changePct } of spans) {
    const [left, right] = [toPx(scale, outInS), toPx(scale, outOutS)]
    if (right < 0 || left > widthPx) continue
    if (right - left < LEAST_NAMED_PX || Math.abs(changePct) < LEAST_PCT) continue
    const words = speedWords(changePct, right - left < LEAST_WITH_TEMPO_PX ? null : bpm)
    context.fillText(words, Math.max(4, left + 4), changePct > 0 ? heightPx - 4 : 12)
  }
}
