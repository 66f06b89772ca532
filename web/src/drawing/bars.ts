/** The beats of a tempo map, or of a steady tempo, over a time axis: bar lines and beats in pixels. No components. */
import { toPx, type TimeScale } from './scale'

export interface Pulse {
  bpm: number
  meter: number
  /** Of bar one. */
  startsS: number
}
/** Beats one by one: when each is, which of its bar, 0 for the first, and the tempo from it on. */
export interface MapBeats {
  at_s: readonly number[]
  beat_in_bar: readonly number[]
  bpm: readonly number[]
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

/** The beats of a steady tempo one by one, up to a moment. */
export function pulseBeats(pulse: Pulse, untilS: number): MapBeats {
  const beatS = 60 / pulse.bpm
  const count = Math.max(0, Math.floor((untilS - pulse.startsS) / beatS) + 1)
  const numbers = [...Array(count).keys()]
  return {
    at_s: numbers.map((k) => pulse.startsS + k * beatS),
    beat_in_bar: numbers.map((k) => k % pulse.meter),
    bpm: numbers.map(() => pulse.bpm),
  }
}

/** The bars and beats of a tempo map in view up to `untilS`, thinned out where they would touch. */
export function mapLines(
  map: MapBeats,
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

/** The same beats, a while later or earlier. */
export const movedBy = <M extends MapBeats>(map: M, seconds: number): M => ({
  ...map,
  at_s: map.at_s.map((atS) => atS + seconds),
})

/** The beats of a tempo map from a moment up to another, and whether each begins a bar. */
export const mapClicks = (map: MapBeats, fromS: number, toS: number): Click[] =>
  map.at_s.flatMap((atS, i) => (atS >= fromS && atS < toS ? [{ atS, isBar: map.beat_in_bar[i] === 0 }] : []))
