/** The speed lane on a canvas. */
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

/** Changes of speed as bars above and below the track's own, the largest as high as there is room for; `bpm`: its own tempo. */
export function paintSpeeds(
  paper: Paper,
  scale: TimeScale,
  steps: readonly SpeedStep[],
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
    if (right - left < LEAST_NAMED_PX || Math.abs(changePct) < LEAST_PCT) continue
    context.globalAlpha = 1
    context.fillStyle = colors.ink
    const words = speedWords(changePct, right - left < LEAST_WITH_TEMPO_PX ? null : bpm)
    context.fillText(words, Math.max(4, left + 4), changePct > 0 ? heightPx - 4 : 12)
  }
  context.globalAlpha = 1
}
