import type { Hit, Line, Plan, Seam } from '@/api/client'
import { FLICKS_PER_S } from '@/time'
import { describe, expect, it } from 'vitest'
import { asksOf, changeInWords, othersFor } from './changes'
import { chosenListening, LISTENING_WORDS, listeningFor } from './listening'
import { buildsTo, chosenShape, offeredShapes, shapePath, underLines } from '@/drawing/shape'

const slot = {
  startFrames: 100,
  lengthFlicks: 40 * FLICKS_PER_S,
  rate: { num: 25, den: 1, drop_frame: false },
}
const line = (start_frames: number, end_frames: number) =>
  ({ id: 1, start_frames, end_frames, text: 'So.' }) as Line
const hit = (id: number, at_frames: number, label: string) => ({ id, at_frames, label }) as Hit

describe('how full the music is wished to be', () => {
  it('is thin under the lines that are spoken in the slot, those close together as one', () => {
    const lines = [line(300, 350), line(0, 125), line(375, 400), line(1050, 2000), line(3000, 3100)]
    const spans = underLines(lines, slot).map((w) => [
      w.start_flicks / FLICKS_PER_S,
      w.end_flicks / FLICKS_PER_S,
    ])
    expect(spans).toEqual([
      [0, 1],
      [8, 12],
      [38, 40],
    ])
  })
  it('builds to the end or to a hit that lies in the slot', () => {
    const offered = offeredShapes([], [hit(3, 600, 'Door'), hit(4, 50, 'Before'), hit(5, 700, '')], slot)
    expect(offered.map((one) => one.words)).toEqual([
      'as it comes',
      'building to the end',
      'building to Door',
      'building to hit 2',
    ])
    expect(offered[2]!.shape).toEqual(buildsTo(20 * FLICKS_PER_S))
  })
  it('is drawn over the lane, thin at its bottom and full at its top', () => {
    const scale = { startS: 5, pxPerS: 10, widthPx: 900 }
    const shape = buildsTo(20 * FLICKS_PER_S)
    expect(shapePath(shape, scale, slot.lengthFlicks)).toBe('M-50.0 96.0L150.0 4.0')
    expect(shapePath(shape, scale, 10 * FLICKS_PER_S)).toBe('M-50.0 96.0L50.0 50.0')
  })
  it('is known again by its name, and is an own one otherwise', () => {
    const offered = offeredShapes([line(200, 300)], [], slot)
    expect(chosenShape([], offered)).toBe('free')
    expect(chosenShape(underLines([line(200, 300)], slot), offered)).toBe('lines')
    expect(chosenShape(buildsTo(7), offered)).toBe('own')
  })
})

describe('what is listened for', () => {
  it('is one choice, or weights of its own', () => {
    for (const choice of Object.keys(LISTENING_WORDS))
      expect(chosenListening(listeningFor(choice))).toBe(choice)
    expect(chosenListening({ harmony: 2, voice: 0.5 })).toBe('own')
    expect(chosenListening({ harmony: 1 })).toBe('all')
  })
})

describe('what would do instead', () => {
  it('is said in words, and is what is then asked for', () => {
    const said = (['give_pct', 'max_seams', 'hold_bars', 'tolerance_frames'] as const).map((kind) =>
      changeInWords({ kind, value: kind === 'max_seams' ? 1 : 4 }),
    )
    expect(said).toEqual([
      'a give of 4 %',
      '1 seam at most',
      '4 bars between two seams',
      '4 frames of tolerance',
    ])
    expect(asksOf({ kind: 'max_seams', value: 5 })).toEqual({ max_seams: 5 })
    expect(asksOf({ kind: 'opening', value: null })).toEqual({ opening: undefined })
    expect(asksOf({ kind: 'tolerance_frames', value: 3 })).toBeUndefined()
  })
  it('offers other openings and endings only where a seam is plain', () => {
    const plan = (...seams: Partial<Seam>[]) => ({ seams }) as Plan
    expect(
      othersFor(plan({ grade: 'even', kind: 'beat' }, { grade: 'plain', kind: 'anew' }), {} as never),
    ).toEqual([])
    const words = (asks: object) =>
      othersFor(plan({ grade: 'plain', kind: 'beat' }), asks as never).map((one) => one.words)
    expect(words({})).toEqual(['open at a section', 'open on any downbeat', 'end in a fade'])
    expect(words({ opening: 'bar' })).toEqual(['end in a fade'])
    expect(words({ opening: 'own', landing: 'fade' })).toEqual([])
  })
})
