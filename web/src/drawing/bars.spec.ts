import { describe, expect, it } from 'vitest'
import { barLines, beatsBetween, clicksBetween, mapClicks, mapLines } from './bars'

const pulse = { bpm: 120, meter: 4, startsS: 1 } // bars of 2 s

describe('a steady tempo over a time axis', () => {
  it('has its bar lines where they are, numbered where there is room', () => {
    const near = barLines(pulse, { startS: 0, pxPerS: 100, widthPx: 800 }, 72)
    expect(near.map((l) => [l.bar, l.px, l.isNumbered])).toEqual([
      [1, 100, true],
      [2, 300, true],
      [3, 500, true],
      [4, 700, true],
    ])
    const far = barLines(pulse, { startS: 0, pxPerS: 10, widthPx: 800 }, 72)
    expect(far.filter((l) => l.isNumbered).map((l) => l.bar)).toEqual([
      1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31, 33, 35,
    ])
    expect(far.at(-1)!.bar).toBe(36)
    const hours = barLines(pulse, { startS: 0, pxPerS: 0.1, widthPx: 800 }, 7200)
    expect(hours.length).toBeLessThan(160)
  })

  it('begins at bar one and in view, and ends with the picture', () => {
    const later = barLines(pulse, { startS: 40, pxPerS: 100, widthPx: 800 }, 44)
    expect(later.map((l) => l.bar)).toEqual([20, 21, 22])
    expect(later[1]!.px).toBe(100)
  })

  it('has its beats between them, while they do not touch', () => {
    expect(beatsBetween(pulse, { startS: 1, pxPerS: 100, widthPx: 200 }, 72)).toEqual([50, 100, 150])
    expect(beatsBetween(pulse, { startS: 1, pxPerS: 10, widthPx: 200 }, 72)).toEqual([])
  })

  it('clicks on every beat of a stretch once, accented on bars', () => {
    const parts = [0, 1.4, 2.5, 3].map((from, i, all) => clicksBetween(pulse, from, all[i + 1] ?? 5))
    expect(parts.flat().map((c) => c.atS)).toEqual([1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5])
    expect(
      parts
        .flat()
        .filter((c) => c.isBar)
        .map((c) => c.atS),
    ).toEqual([1, 3])
  })
})

describe('a tempo map over a time axis', () => {
  // Two bars in three at 120 bpm, then bars of one second in two, the last of them cut short.
  const map = {
    at_s: [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 5.5],
    beat_in_bar: [0, 1, 2, 0, 1, 2, 0, 1, 0, 0],
  }
  it('has every bar with its number and the beats between them', () => {
    const { bars, beats } = mapLines(map, { startS: 2, pxPerS: 100, widthPx: 320 }, 72)
    expect(bars).toEqual([
      { bar: 2, px: 50, isNumbered: true },
      { bar: 3, px: 200, isNumbered: true },
      { bar: 4, px: 300, isNumbered: true },
    ])
    expect(beats).toEqual([0, 100, 150, 250])
    expect(mapLines(map, { startS: 0, pxPerS: 100, widthPx: 900 }, 4).bars.map((b) => b.bar)).toEqual([
      1, 2, 3,
    ])
  })
  it('is thinned out where lines and numbers would touch', () => {
    const { bars, beats } = mapLines(map, { startS: 0, pxPerS: 8, widthPx: 320 }, 72)
    expect(bars.map((b) => [b.bar, b.isNumbered])).toEqual([
      [1, true],
      [2, false],
      [3, false],
      [4, false],
    ])
    expect(beats).toEqual([])
  })
  it('is clicked where it is, the first of every bar apart', () => {
    expect(mapClicks(map, 4.5, 5.5)).toEqual([
      { atS: 4.5, isBar: false },
      { atS: 5, isBar: true },
    ])
  })
})
