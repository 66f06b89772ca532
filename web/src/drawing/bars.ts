/** A steady tempo over a time axis: its bar lines and beats in pixels. No components. */
import { endS, toPx, type TimeScale } from './scale'

export interface Pulse {
  bpm: number
  meter: number
  /** Of bar one. */
  startsS: number
}
/** Beats one by one: when each is, and which of its bar, 0 for the first. */
export interface CountedBeats {
  at_s: readonly number[]
  beat_in_bar: readonly number[]
}
export interface Click {
  atS: number
  isBar: boolean
}
export interface BarLine {
  bar: number
  px: number
  isNumbered: boolean
}

const LEAST_NUMBER_PX = 34
const LEAST_BAR_PX = 5
const LEAST_BEAT_PX = 7

const beatS = (pulse: Pulse) => 60 / pulse.bpm

/** Bar lines in view up to `untilS`; numbers, and then lines, are thinned out by powers of two where they would touch. */
export function barLines(pulse: Pulse, scale: TimeScale, untilS: number): BarLine[] {
  const barS = pulse.meter * beatS(pulse)
  const [each, numbered] = [LEAST_BAR_PX, LEAST_NUMBER_PX].map((px) => {
    let bars = 1
    while (bars * barS * scale.pxPerS < px) bars *= 2
    return bars
  }) as [number, number]
  const first = Math.max(0, Math.floor((scale.startS - pulse.startsS) / barS / each) * each)
  const lines: BarLine[] = []
  for (let k = first; pulse.startsS + k * barS <= Math.min(untilS, endS(scale)); k += each) {
    const px = toPx(scale, pulse.startsS + k * barS)
    lines.push({ bar: k + 1, px, isNumbered: k % numbered === 0 })
  }
  return lines
}

/** The beats between the bar lines, in pixels; none where they would touch. */
export function beatsBetween(pulse: Pulse, scale: TimeScale, untilS: number): number[] {
  const each = beatS(pulse)
  if (each * scale.pxPerS < LEAST_BEAT_PX) return []
  const beats: number[] = []
  const first = Math.max(0, Math.floor((scale.startS - pulse.startsS) / each))
  for (let k = first; pulse.startsS + k * each <= Math.min(untilS, endS(scale)); k++)
    if (k % pulse.meter) beats.push(toPx(scale, pulse.startsS + k * each))
  return beats
}

/** The bars and beats of a tempo map in view up to `untilS`, thinned out where they would touch. */
export function mapLines(
  map: CountedBeats,
  scale: TimeScale,
  untilS: number,
): { bars: BarLine[]; beats: number[] } {
  const [bars, beats]: [BarLine[], number[]] = [[], []]
  let [bar, linePx, numberPx, beforePx] = [0, -Infinity, -Infinity, -Infinity]
  map.at_s.forEach((atS, i) => {
    const isBar = map.beat_in_bar[i] === 0
    if (isBar) bar++
    const px = toPx(scale, atS)
    const isApart = px - beforePx >= LEAST_BEAT_PX
    beforePx = px
    if (atS > untilS || px < -LEAST_NUMBER_PX || px > scale.widthPx) return
    if (isBar && px - linePx >= LEAST_BAR_PX) {
      const isNumbered = px - numberPx >= LEAST_NUMBER_PX
      bars.push({ bar, px, isNumbered })
      linePx = px
      if (isNumbered) numberPx = px
    } else if (!isBar && isApart) beats.push(px)
  })
  return { bars, beats }
}

/** The beats of a tempo map from a moment up to another, and whether each begins a bar. */
export const mapClicks = (map: CountedBeats, fromS: number, toS: number): Click[] =>
  map.at_s.flatMap((atS, i) => (atS >= fromS && atS < toS ? [{ atS, isBar: map.beat_in_bar[i] === 0 }] : []))

/** The beats from a moment up to another, in seconds, and whether each begins a bar. */
export function clicksBetween(pulse: Pulse, fromS: number, toS: number): Click[] {
  const each = beatS(pulse)
  const clicks = []
  for (let k = Math.max(0, Math.ceil((fromS - pulse.startsS) / each)); pulse.startsS + k * each < toS; k++)
    clicks.push({ atS: pulse.startsS + k * each, isBar: k % pulse.meter === 0 })
  return clicks
}
