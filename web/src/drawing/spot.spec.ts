import { describe, expect, it } from 'vitest'
import { frameMarks, frameToPx, inView, placeSpan, snapped, thumbTiles } from './spot'

const rate = { num: 25, den: 1, drop_frame: false }
const ntsc = { num: 30000, den: 1001, drop_frame: true }
const scale = { startS: 0, pxPerS: 10, widthPx: 1000 }

describe('what of a picture is in view', () => {
  const shots = Array.from({ length: 2000 }, (_, k) => ({ start: k * 90, end: k * 90 + 90 }))
  it.each([0, 3000, 7190])('finds exactly the shots that touch the view from %d s', (startS) => {
    const view = { startS, pxPerS: 20, widthPx: 1000 }
    const found = inView(
      shots,
      (s) => s.start,
      (s) => s.end,
      view,
      rate,
    )
    const [from, to] = [startS - 2, startS + 52]
    expect(found).toEqual(shots.filter((s) => s.start / 25 <= to && s.end / 25 >= from))
  })
  it('places spans by their frames, never thinner than a pixel', () => {
    expect(placeSpan(scale, 250, 500, rate)).toEqual({ leftPx: 100, widthPx: 100 })
    expect(placeSpan(scale, 250, 250, rate).widthPx).toBe(1)
    expect(frameToPx(scale, 30000, ntsc)).toBeCloseTo(10010, 6)
  })
})

describe('the ruler', () => {
  it.each([
    [scale, rate],
    [{ ...scale, pxPerS: 600 }, rate],
    [{ ...scale, startS: 58, pxPerS: 30 }, ntsc],
  ])('puts labels on whole frames, far enough apart', (view, r) => {
    const labelled = frameMarks(view, r, 0, 'timecode').filter((m) => m.label)
    expect(labelled.length).toBeGreaterThan(1)
    for (const m of labelled) expect(Number.isInteger(m.frames)).toBe(true)
    for (let i = 1; i < labelled.length; i++)
      expect(labelled[i]!.px - labelled[i - 1]!.px).toBeGreaterThanOrEqual(108)
  })
  it('counts in the unit that is asked for', () => {
    const at = (unit: 'timecode' | 'frames' | 'feet' | 'seconds') =>
      frameMarks(scale, rate, 90_000, unit).filter((m) => m.label)[1]!.label
    expect(at('timecode')).toMatch(/^01:00:/)
    expect(at('frames')).toMatch(/^\d+f$/)
    expect(at('feet')).toMatch(/^\d+\+\d\d$/)
    expect(at('seconds')).toMatch(/^\d+\.\d{3}$/)
  })
})

describe('the strip of small pictures', () => {
  const thumbs = { every_frames: 5, per_row: 24, count: 360, width_px: 128, height_px: 72 }
  it('fills the film and no more, each tile with the picture of its left edge', () => {
    const tiles = thumbTiles(scale, 64, thumbs, rate, 1800)
    expect(tiles[0]).toMatchObject({ leftPx: 0, fromX: 0, fromY: 0 })
    const last = tiles.at(-1)!
    expect(last.leftPx + last.widthPx).toBeCloseTo(720, 6)
    const second = Math.round((tiles[1]!.leftPx / 10) * 5)
    expect(tiles[1]!.fromX).toBe((second % 24) * 128)
    expect(tiles[1]!.fromY).toBe(Math.floor(second / 24) * 72)
  })
})

describe('snapping', () => {
  it('goes to the nearest shot change within reach, and nowhere without one', () => {
    expect(snapped(100, [90, 104, 300], 6)).toBe(104)
    expect(snapped(100, [90, 120], 6)).toBe(100)
    expect(snapped(100, [100], 0)).toBe(100)
  })
})
