/** Bars and beats of a chart as they are drawn and taken hold of. Positions are samples of the recording. */
import type { Chart, Mark } from '@/api/client'
import { toPx, type TimeScale } from './scale'

const LEAST_BAR_PX = 12
const LEAST_NUMBER_PX = 30
const LEAST_BEAT_PX = 9

export interface BarLine {
  at: number
  px: number
  /** Counted from one; null where there is no room to write it. */
  number: number | null
  isPinned: boolean
}

/** Bar lines in view; only every second, fourth, … one where they lie too close, and none in free time. */
export function barLines(chart: Chart, scale: TimeScale): BarLine[] {
  if (chart.free_time) return []
  const downbeats = chart.beats.filter((_, i) => chart.beat_in_bar[i] === 0)
  const barPx = usualGapPx(downbeats, chart.rate, scale)
  if (!barPx) return []
  let every = 1
  while (barPx * every < LEAST_BAR_PX) every *= 2
  let numbered = every
  while (barPx * numbered < LEAST_NUMBER_PX) numbered *= 2
  const pins = new Set(chart.pins)
  return downbeats
    .map((at, i) => ({
      at,
      px: toPx(scale, at / chart.rate),
      number: i % numbered === 0 ? i + 1 : null,
      isPinned: pins.has(at),
      index: i,
    }))
    .filter((line) => (line.index % every === 0 || line.isPinned) && isInView(line.px, scale))
}

/** Pixels of the beats between bar lines, where there is room for them; the breaths in free time. */
export function beatTicks(chart: Chart, scale: TimeScale): number[] {
  const beatPx = usualGapPx(chart.beats, chart.rate, scale)
  if (beatPx < LEAST_BEAT_PX && !chart.free_time) return []
  return chart.beats
    .filter((_, i) => chart.free_time || chart.beat_in_bar[i] !== 0)
    .map((at) => toPx(scale, at / chart.rate))
    .filter((px) => isInView(px, scale))
}

function usualGapPx(places: number[], rate: number, scale: TimeScale): number {
  if (places.length < 2) return 0
  return (((places.at(-1)! - places[0]!) / (places.length - 1)) * scale.pxPerS) / rate
}

const isInView = (px: number, scale: TimeScale) => px > -20 && px < scale.widthPx + 20

/** The place nearest to `at`; `at` itself where there is none. */
export function nearest(places: number[], at: number): number {
  let best = at
  let least = Infinity
  for (const place of places) {
    if (Math.abs(place - at) < least) [best, least] = [place, Math.abs(place - at)]
  }
  return best
}

/** The bar line or beat before or after a place. */
export function neighbour(chart: Chart, at: number, back: boolean, byBeat: boolean): number | null {
  const places = byBeat ? chart.beats : chart.beats.filter((_, i) => chart.beat_in_bar[i] === 0)
  const near = chart.rate * 0.02
  if (back) return places.filter((p) => p < at - near).at(-1) ?? null
  return places.find((p) => p > at + near) ?? null
}

/** A span dragged over the track, moved out to whole bars (to breaths in free time). */
export function wholeBars(chart: Chart, from: number, to: number): [number, number] {
  const places = [...chart.beats.filter((_, i) => chart.beat_in_bar[i] === 0), chart.ring_out_end_samples]
  const [low, high] = [Math.min(from, to), Math.max(from, to)]
  const start = places.filter((p) => p <= low).at(-1) ?? places[0] ?? low
  const end = places.find((p) => p >= high) ?? chart.ring_out_end_samples
  return end > start ? [start, end] : [low, high]
}

export const MARK_WORDS: Record<Mark['kind'], string> = {
  keep: 'every fit plays this whole',
  skip: 'no fit plays this',
  guard: 'no seam in here',
}
