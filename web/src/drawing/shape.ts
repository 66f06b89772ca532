/** How full the music is wished to be: the shapes that are offered by name, and which of them is asked for. No components. */
import type { Asks, Hit, Line } from '@/api/client'
import { FLICKS_PER_S, flicksToSeconds, framesToFlicks, type Rate } from '@/time'
import { toPx, type TimeScale } from './scale'

export type Wish = NonNullable<Asks['shape']>[number]
export interface Slot {
  startFrames: number
  lengthFlicks: number
  rate: Rate
}
export interface Offered {
  name: string
  words: string
  shape: Wish[]
}

const [THIN, FULL] = [0, 1]
const BREATH_S = 4 // between two lines: music does not swell and give way again in so little time

/** Thin wherever a line of the picture is spoken in the slot; lines with no more than a breath between them are one span. */
export function underLines(lines: Line[], slot: Slot): Wish[] {
  const spans = lines
    .map((line) => [inSlot(line.start_frames, slot), inSlot(line.end_frames, slot)] as const)
    .map(([start, end]) => [Math.max(0, start), Math.min(slot.lengthFlicks, end)] as const)
    .filter(([start, end]) => end > start)
    .sort((a, b) => a[0] - b[0])
  const joined: [number, number][] = []
  for (const [start, end] of spans) {
    const last = joined.at(-1)
    if (last && start <= last[1] + BREATH_S * FLICKS_PER_S) last[1] = Math.max(last[1], end)
    else joined.push([start, end])
  }
  return joined.map(([start, end]) => wish(start, end, THIN, THIN))
}

/** From thin at the start of the slot to full at a moment of it. */
export const buildsTo = (flicks: number): Wish[] => (flicks > 0 ? [wish(0, flicks, THIN, FULL)] : [])

/** The shapes that make sense in a slot. */
export function offeredShapes(lines: Line[], hits: Hit[], slot: Slot): Offered[] {
  const spoken = underLines(lines, slot)
  const moments = hits
    .map((hit) => ({ hit, at: inSlot(hit.at_frames, slot) }))
    .filter(({ at }) => at > 0 && at < slot.lengthFlicks)
  return [
    { name: 'free', words: 'as it comes', shape: [] },
    ...(spoken.length ? [{ name: 'lines', words: 'thin under the lines', shape: spoken }] : []),
    { name: 'end', words: 'building to the end', shape: buildsTo(slot.lengthFlicks) },
    ...moments.map(({ hit, at }, i) => ({
      name: `hit${hit.id}`,
      words: `building to ${hit.label || `hit ${i + 1}`}`,
      shape: buildsTo(at),
    })),
  ]
}

/** The name of the offered shape that is asked for; 'own' for one that is none of them. */
export function chosenShape(asked: Wish[], offered: Offered[]): string {
  return offered.find((one) => isSame(one.shape, asked))?.name ?? 'own'
}

/** How far down its lane a level is, per cent, and the level there. */
export const levelPct = (level: number): number => 96 - 92 * level
export const levelAt = (pct: number): number => (96 - pct) / 92

/** The lines of a shape over a lane up to its end: across in pixels, down in per cent of its height, full at the top. */
export function shapePath(shape: Wish[], scale: TimeScale, endFlicks: number): string {
  const at = (flicks: number, level: number) =>
    `${toPx(scale, flicksToSeconds(flicks)).toFixed(1)} ${levelPct(level).toFixed(1)}`
  return shape
    .filter((w) => w.start_flicks < endFlicks)
    .map((w) => {
      const end = Math.min(w.end_flicks, endFlicks)
      const share = (end - w.start_flicks) / (w.end_flicks - w.start_flicks)
      const level = w.start_level + share * (w.end_level - w.start_level)
      return `M${at(w.start_flicks, w.start_level)}L${at(end, level)}`
    })
    .join('')
}

const isSame = (a: Wish[], b: Wish[]) =>
  a.length === b.length &&
  a.every((wish, i) => (Object.keys(wish) as (keyof Wish)[]).every((key) => wish[key] === b[i]?.[key]))
const inSlot = (frames: number, slot: Slot) => framesToFlicks(frames - slot.startFrames, slot.rate)
const wish = (start: number, end: number, from: number, to: number): Wish => ({
  start_flicks: start,
  end_flicks: end,
  start_level: from,
  end_level: to,
})
