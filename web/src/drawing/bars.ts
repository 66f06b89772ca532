/** A steady tempo over a time axis: its bar lines and beats in pixels. No components. */
import { endS, toPx, type TimeScale } from './scale'

export interface Pulse {
  bpm: number
  meter: number
  /** Of bar one. */
  startsS: number
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

/** The beats from a moment up to another, in seconds, and whether each begins a bar. */
export function clicksBetween(pulse: Pulse, fromS: number, toS: number): { atS: number; isBar: boolean }[] {
  const each = beatS(pulse)
  const clicks = []
  for (let k = Math.max(0, Math.ceil((fromS - pulse.startsS) / each)); pulse.startsS + k * each < toS; k++)
    clicks.push({ atS: pulse.startsS + k * each, isBar: k % pulse.meter === 0 })
  return clicks
}
