/** A wished fullness as lines with corners that a hand can move. No components. */
import { FLICKS_PER_S } from '@/time'
import type { Wish } from './shape'

export interface Corner {
  atFlicks: number
  level: number
}
/** Lines of a shape from left to right, each with two corners or more; between two lines nothing is wished. */
export type Lines = Corner[][]
/** Which corner: of which line, and which of its corners. */
export type Place = readonly [line: number, corner: number]

const LEAST_FLICKS = FLICKS_PER_S / 10 // between two corners

/** What a drawing begins with: as full as half of the track all along. */
export const levelLine = (lengthFlicks: number): Wish[] =>
  wishesOf([
    [
      { atFlicks: 0, level: 0.5 },
      { atFlicks: lengthFlicks, level: 0.5 },
    ],
  ])

export function linesOf(shape: Wish[]): Lines {
  const lines: Lines = []
  for (const wish of [...shape].sort((a, b) => a.start_flicks - b.start_flicks)) {
    const last = lines.at(-1)?.at(-1)
    const joins = last?.atFlicks === wish.start_flicks && last.level === wish.start_level
    if (!joins) lines.push([{ atFlicks: wish.start_flicks, level: wish.start_level }])
    lines.at(-1)!.push({ atFlicks: wish.end_flicks, level: wish.end_level })
  }
  return lines
}

export const wishesOf = (lines: Lines): Wish[] =>
  lines.flatMap((corners) =>
    corners.slice(1).map((to, i) => ({
      start_flicks: corners[i]!.atFlicks,
      end_flicks: to.atFlicks,
      start_level: corners[i]!.level,
      end_level: to.level,
    })),
  )

/** The lines with one corner elsewhere: it stays between its neighbours and within the slot. */
export function moved(lines: Lines, [line, corner]: Place, to: Corner, lengthFlicks: number): Lines {
  const before = lines[line]?.[corner - 1] ?? lines[line - 1]?.at(-1)
  const after = lines[line]?.[corner + 1] ?? lines[line + 1]?.[0]
  const earliest = before ? before.atFlicks + LEAST_FLICKS : 0
  const latest = Math.max(earliest, after ? after.atFlicks - LEAST_FLICKS : lengthFlicks)
  const put = {
    atFlicks: Math.round(Math.min(Math.max(to.atFlicks, earliest), latest)),
    level: Math.round(Math.min(Math.max(to.level, 0), 1) * 100) / 100,
  }
  return lines.map((corners, l) => (l === line ? corners.with(corner, put) : corners))
}

/** The lines with one corner more at a moment that one of them passes, and where it is; null if none does, or it has one near. */
export function withCorner(lines: Lines, atFlicks: number): { lines: Lines; place: Place } | null {
  for (const [line, corners] of lines.entries()) {
    const corner = corners.findIndex((c) => c.atFlicks > atFlicks)
    const [from, to] = [corners[corner - 1], corners[corner]]
    if (!from || !to) continue
    if (Math.min(atFlicks - from.atFlicks, to.atFlicks - atFlicks) < LEAST_FLICKS) return null
    const share = (atFlicks - from.atFlicks) / (to.atFlicks - from.atFlicks)
    const put = { atFlicks: Math.round(atFlicks), level: from.level + share * (to.level - from.level) }
    return { lines: lines.with(line, corners.toSpliced(corner, 0, put)), place: [line, corner] }
  }
  return null
}

/** The lines without one corner; a line of one corner is none. */
export const withoutCorner = (lines: Lines, [line, corner]: Place): Lines =>
  lines
    .map((corners, l) => (l === line ? corners.toSpliced(corner, 1) : corners))
    .filter((corners) => corners.length > 1)
