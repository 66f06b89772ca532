import { describe, expect, it } from 'vitest'
import { mapClicks, mapLines, movedBy, pulseBeats } from './bars'

const pulse = { bpm: 120, meter: 4, startsS: 1 } // bars of 2 s

describe('a steady tempo over a time axis', () => {
  const beats = pulseBeats(pulse, 72)
  it('has its bar lines where they are, numbered where there is room, up to the end of the picture', () => {
    const near = mapLines(beats, { startS: 0, pxPerS: 100, widthPx: 800 }, 72).bars
    expect(near.map((l) => [l.bar, l.px, l.isNumbered])).toEqual([
      [1, 100, true],
      [2, 300, true],
      [3, 500, true],
      [4, 700, true],
    ])
    const far = mapLines(beats, { startS: 0, pxPerS: 10, widthPx: 800 }, 72).bars
    expect(far.filter((l) => l.isNumbered).map((l) => l.bar)).toEqual([
      1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31, 33, 35,
    ])
    expect(far.at(-1)!.bar).toBe(36)
    const hours = mapLines(pulseBeats(pulse, 7200), { startS: 0, pxPerS: 0.1, widthPx: 800 }, 7200).bars
    expect(hours.length).toBeLessThan(160)
    expect(pulseBeats(pulse, 0.5).at_s).toEqual([])
  })

  it('is clicked on every beat of a stretch once, accented on bars, from wherever the clock starts', () => {
    const here = movedBy(beats, -1)
    const parts = [0, 0.4, 1.5, 2].map((from, i, all) => mapClicks(here, from, all[i + 1] ?? 4)).flat()
    expect(parts.map((c) => c.atS)).toEqual([0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5])
    expect(parts.filter((c) => c.isBar).map((c) => c.atS)).toEqual([0, 2])
  })
})

describe('a tempo map over a time axis', () => {
  // Two bars in three at 120 bpm, then bars of one second in two, the last of them cut short.
  const map = {
    at_s: [1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5, 5, 5.5],
    beat_in_bar: [0, 1, 2, 0, 1, 2, 0, 1, 0, 0],
    bpm: Array<number>(10).fill(120),
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
