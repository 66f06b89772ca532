/** The one time axis: seconds to CSS pixels and back, and the ruler's marks. */
import { formatClock } from '@/time'

export interface TimeScale {
  /** Time at the left edge. */
  startS: number
  pxPerS: number
  widthPx: number
}

export const toPx = (scale: TimeScale, seconds: number): number => (seconds - scale.startS) * scale.pxPerS
export const toS = (scale: TimeScale, px: number): number => scale.startS + px / scale.pxPerS
export const endS = (scale: TimeScale): number => scale.startS + scale.widthPx / scale.pxPerS

/** Whether anything of a span is in view, or within some pixels of it. */
export const inViewPx = (scale: TimeScale, fromS: number, untilS: number, nearPx = 0): boolean =>
  toPx(scale, untilS) >= -nearPx && toPx(scale, fromS) <= scale.widthPx + nearPx

/** Zoom by a factor around a pixel that keeps its time; limited to the whole and to one peak a pixel. */
export function zoomed(
  scale: TimeScale,
  factor: number,
  aroundPx: number,
  wholeS: number,
  mostPxPerS: number,
): TimeScale {
  const least = scale.widthPx / wholeS
  const pxPerS = Math.min(Math.max(scale.pxPerS * factor, least), Math.max(mostPxPerS, least))
  const startS = toS(scale, aroundPx) - aroundPx / pxPerS
  return clamped({ ...scale, pxPerS, startS }, wholeS)
}

/** Keep the view inside [0, wholeS]. */
export function clamped(scale: TimeScale, wholeS: number): TimeScale {
  const latest = Math.max(0, wholeS - scale.widthPx / scale.pxPerS)
  return { ...scale, startS: Math.min(Math.max(0, scale.startS), latest) }
}

const STEPS_S = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1200, 3600]

export interface RulerMark {
  seconds: number
  px: number
  label: string | null
}

/** Marks of the ruler: labelled ones at least `leastPx` apart, plain ones between. */
export function rulerMarks(scale: TimeScale, leastPx = 84): RulerMark[] {
  const stepS = STEPS_S.find((s) => s * scale.pxPerS >= leastPx) ?? 3600
  const minor = stepS / 5
  const marks: RulerMark[] = []
  for (let i = Math.ceil(scale.startS / minor - 1e-9); i * minor <= endS(scale) + 1e-9; i++) {
    const seconds = i * minor
    const decimals = stepS < 0.1 ? 2 : stepS < 1 ? 1 : 0
    marks.push({
      seconds,
      px: toPx(scale, seconds),
      label: i % 5 === 0 ? formatClock(seconds, decimals) : null,
    })
  }
  return marks
}

/** The strokes of a ruler as one path: all marks, or those with a label, from one height to another. */
export const strokes = (marks: readonly { px: number }[], fromPx: number, toPx: number): string =>
  marks.map((m) => `M${m.px.toFixed(1)} ${fromPx}V${toPx}`).join('')
