/** Geometry of the spotting lanes: what of a picture is in view, and where. Frames in, CSS pixels out. */
import type { Schemas } from '@/api/client'
import { formatFrame, framesToSeconds, type Rate, type TimeUnit } from '@/time'
import { endS, toPx, type TimeScale } from './scale'

export interface Placed {
  leftPx: number
  widthPx: number
}

export const frameToPx = (scale: TimeScale, frames: number, rate: Rate): number =>
  toPx(scale, framesToSeconds(frames, rate))

export function placeSpan(scale: TimeScale, start: number, end: number, rate: Rate): Placed {
  const leftPx = frameToPx(scale, start, rate)
  return { leftPx, widthPx: Math.max(1, frameToPx(scale, end, rate) - leftPx) }
}

/** Those of sorted marks that touch the view; by bisection, since a long picture has thousands. */
export function inView<T>(
  marks: readonly T[],
  startOf: (mark: T) => number,
  endOf: (mark: T) => number,
  scale: TimeScale,
  rate: Rate,
): T[] {
  const [fromS, toS] = [scale.startS - 40 / scale.pxPerS, endS(scale) + 40 / scale.pxPerS]
  let [low, high] = [0, marks.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (framesToSeconds(startOf(marks[middle]!), rate) < fromS) low = middle + 1
    else high = middle
  }
  const found: T[] = []
  // What starts before the view may reach into it; spans of dialogue and shots are far shorter than this look back.
  for (let i = Math.max(0, low - 50); i < marks.length; i++) {
    const mark = marks[i]!
    if (framesToSeconds(startOf(mark), rate) > toS) break
    if (framesToSeconds(endOf(mark), rate) >= fromS) found.push(mark)
  }
  return found
}

const STEPS_S = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1200, 3600]

export interface FrameMark {
  frames: number
  px: number
  label: string | null
}

/** Marks of the ruler on whole frames; labelled ones at least `leastPx` apart. */
export function frameMarks(
  scale: TimeScale,
  rate: Rate,
  startFrames: number,
  unit: TimeUnit,
  leastPx = 108,
): FrameMark[] {
  const nominal = Math.round(rate.num / rate.den)
  const pxPerFrame = (scale.pxPerS * rate.den) / rate.num
  const steps = [1, 2, 5, 10, ...STEPS_S.map((s) => s * nominal)]
  const step = steps.find((s) => s * pxPerFrame >= leastPx) ?? steps.at(-1)!
  const minor = step % 5 === 0 ? step / 5 : step % 4 === 0 ? step / 4 : 1
  const marks: FrameMark[] = []
  const last = (endS(scale) * rate.num) / rate.den
  for (let f = Math.ceil((scale.startS * rate.num) / rate.den / minor) * minor; f <= last; f += minor) {
    const label = f % step === 0 ? formatFrame(f, rate, startFrames, unit) : null
    marks.push({ frames: f, px: frameToPx(scale, f, rate), label })
  }
  return marks
}

export interface Tile {
  leftPx: number
  widthPx: number
  /** Where the small picture lies on its sheet. */
  fromX: number
  fromY: number
}

/** The small pictures that fill the strip: one beside the other, each that of the frame at its left edge. */
export function thumbTiles(
  scale: TimeScale,
  heightPx: number,
  thumbs: Schemas['ThumbsRead'],
  rate: Rate,
  lengthFrames: number,
): Tile[] {
  const widthPx = (heightPx * thumbs.width_px) / thumbs.height_px
  const endPx = frameToPx(scale, lengthFrames, rate)
  const startPx = frameToPx(scale, 0, rate)
  const tiles: Tile[] = []
  const first = Math.max(0, Math.floor(-startPx / widthPx))
  for (let k = first; ; k++) {
    const leftPx = startPx + k * widthPx
    if (leftPx >= Math.min(scale.widthPx, endPx)) break
    const seconds = scale.startS + leftPx / scale.pxPerS
    const index = Math.min(
      thumbs.count - 1,
      Math.max(0, Math.round((seconds * rate.num) / rate.den / thumbs.every_frames)),
    )
    tiles.push({
      leftPx,
      widthPx: Math.min(widthPx, endPx - leftPx),
      fromX: (index % thumbs.per_row) * thumbs.width_px,
      fromY: Math.floor(index / thumbs.per_row) * thumbs.height_px,
    })
  }
  return tiles
}

/** The shot change nearest to a frame, within some pixels; the frame itself where none is near. */
export function snapped(frame: number, cuts: readonly number[], withinFrames: number): number {
  let best = frame
  let least = withinFrames
  for (const cut of cuts) {
    if (Math.abs(cut - frame) <= least) [best, least] = [cut, Math.abs(cut - frame)]
  }
  return best
}
