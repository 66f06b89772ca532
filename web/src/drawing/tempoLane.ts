/** The tempo of a map, beat by beat, on a canvas. No components. */
import type { MapBeats } from './bars'
import type { Bar } from './heardBars'
import type { Paper } from './painters'
import { toPx, type TimeScale } from './scale'

export interface MapBar extends Bar {
  /** Its first beat, from 0. */
  index: number
}

const LEAST_NAMED_PX = 72
const NAME_PX = 44
const SAME_BPM = 0.005
const SAME_WORDS_BPM = 0.05 // no change of tempo that is worth a word
const WORDS_PX = 11
const LEAST_CURVE_PX = 3

/** Every bar of a map up to a moment. */
export function mapBars(map: MapBeats, untilS: number): MapBar[] {
  const bars: MapBar[] = []
  map.at_s.forEach((atS, index) => {
    if (map.beat_in_bar[index] === 0 && atS <= untilS) bars.push({ bar: bars.length + 1, atS, index })
  })
  return bars
}

/** The tempo in words, where it is one or where it changes a little from beat to beat. */
export const bpmWords = (bpm: number) => bpm.toFixed(2)

/**
 * The tempo as a line, the slowest at the bottom and the fastest at the top, and in words where it changes and there is room.
 * `headsS`: where what is held stands, which is not written over.
 */
export function paintTempo(
  paper: Paper,
  scale: TimeScale,
  map: MapBeats,
  untilS: number,
  heightPx: number,
  headsS: readonly number[],
  colors: { line: string; ink: string },
): void {
  const { context, widthPx } = paper
  const [slowest, fastest] = rangeOf(map.bpm)
  const [topPx, bottomPx] = [WORDS_PX + 2, heightPx - LEAST_CURVE_PX]
  const range = fastest - slowest
  const y = (bpm: number) =>
    range < SAME_BPM ? (topPx + bottomPx) / 2 : bottomPx - ((bpm - slowest) / range) * (bottomPx - topPx)
  const headsPx = headsS.map((atS) => toPx(scale, atS))
  let freePx = Number.NEGATIVE_INFINITY
  let said = Number.NaN
  map.at_s.forEach((atS, i) => {
    const next = Math.min(map.at_s[i + 1] ?? untilS, untilS)
    if (atS > untilS) return
    const [left, right] = [toPx(scale, atS), toPx(scale, next)]
    if (right < 0 || left > widthPx) return
    const bpm = map.bpm[i]!
    context.globalAlpha = 0.9
    context.fillStyle = colors.line
    context.fillRect(left, y(bpm) - 1, Math.max(1, right - left), 2)
    if (Math.abs(bpm - said) < SAME_WORDS_BPM || left < freePx) return
    if (headsPx.some((px) => px > left + 1 && px < left + NAME_PX)) return
    context.globalAlpha = 0.85
    context.fillStyle = colors.ink
    context.fillText(bpmWords(bpm), Math.max(3, left + 3), WORDS_PX)
    ;[said, freePx] = [bpm, Math.max(3, left) + LEAST_NAMED_PX]
  })
  context.globalAlpha = 1
}

/** Heads of beats that are held inside a bar. */
export function paintHeads(paper: Paper, scale: TimeScale, atS: readonly number[], color: string): void {
  const { context, heightPx } = paper
  context.fillStyle = color
  for (const at of atS) {
    const px = Math.round(toPx(scale, at))
    context.fillRect(px, 0, 2, heightPx)
    context.fillRect(px - 4, 0, 10, 6)
  }
}

/** The least and the most of many, which are too many to be given one by one. */
export function rangeOf(values: readonly number[]): [number, number] {
  return values.reduce<[number, number]>(
    ([least, most], v) => [Math.min(least, v), Math.max(most, v)],
    [Infinity, -Infinity],
  )
}

/** What a bar that was moved does to the tempo on either side, in words. */
export function besideWords(map: MapBeats, index: number): string {
  const [before, after] = [map.bpm[index - 1], map.bpm[index]]
  const said = [
    before !== undefined && `${bpmWords(before)} bpm before`,
    after !== undefined && `${bpmWords(after)} after`,
  ]
  return said.filter(Boolean).join(', ')
}
