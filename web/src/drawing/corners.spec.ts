import { FLICKS_PER_S } from '@/time'
import { describe, expect, it } from 'vitest'
import { levelLine, linesOf, moved, wishesOf, withCorner, withoutCorner } from './corners'

const S = FLICKS_PER_S
const wish = (from: number, to: number, low: number, high: number) => ({
  start_flicks: from * S,
  end_flicks: to * S,
  start_level: low,
  end_level: high,
})
const build = [wish(0, 4, 0, 0.5), wish(4, 10, 0.5, 1), wish(20, 30, 0, 0)]

describe('a shape that a hand draws', () => {
  it('is lines with corners, and the same shape again', () => {
    expect(linesOf(build).map((corners) => corners.length)).toEqual([3, 2])
    expect(wishesOf(linesOf(build))).toEqual(build)
    expect(wishesOf(linesOf([build[2]!, build[0]!, build[1]!]))).toEqual(build)
  })

  it('keeps a step as two lines that meet', () => {
    const step = [wish(0, 5, 0, 0), wish(5, 9, 1, 1)]
    expect(linesOf(step)).toHaveLength(2)
    expect(wishesOf(linesOf(step))).toEqual(step)
  })

  it('moves a corner no further than its neighbours, its slot and its lane', () => {
    const lines = linesOf(build)
    const first = moved(lines, [0, 1], { atFlicks: 50 * S, level: 7 }, 40 * S)[0]![1]!
    expect(first).toEqual({ atFlicks: 9.9 * S, level: 1 })
    expect(moved(lines, [0, 2], { atFlicks: 25 * S, level: 0 }, 40 * S)[0]![2]!.atFlicks).toBe(
      Math.round(19.9 * S),
    )
    expect(moved(lines, [1, 1], { atFlicks: 99 * S, level: -1 }, 40 * S)[1]![1]).toEqual({
      atFlicks: 40 * S,
      level: 0,
    })
    expect(moved(lines, [0, 0], { atFlicks: -S, level: 0.333 }, 40 * S)[0]![0]).toEqual({
      atFlicks: 0,
      level: 0.33,
    })
  })

  it('has one corner more on a line that passes a moment, at its level', () => {
    const more = withCorner(linesOf(build), 7 * S)!
    expect(more.place).toEqual([0, 2])
    expect(more.lines[0]![2]).toEqual({ atFlicks: 7 * S, level: 0.75 })
    expect(withCorner(linesOf(build), 15 * S)).toBeNull()
    expect(withCorner(linesOf(build), 4.01 * S)).toBeNull()
    expect(wishesOf(withoutCorner(more.lines, more.place))).toEqual(build)
  })

  it('has no line of one corner', () => {
    const flat = linesOf(levelLine(30 * S))
    expect(flat).toEqual([
      [
        { atFlicks: 0, level: 0.5 },
        { atFlicks: 30 * S, level: 0.5 },
      ],
    ])
    expect(withoutCorner(flat, [0, 0])).toEqual([])
  })
})
