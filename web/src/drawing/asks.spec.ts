import type { Hit, Line } from '@/api/client'
import { FLICKS_PER_S } from '@/time'
import { describe, expect, it } from 'vitest'
import { chosenListening, LISTENING_WORDS, listeningFor } from './listening'
import { buildsTo, chosenShape, offeredShapes, underLines } from './shape'

const slot = {
  startFrames: 100,
  lengthFlicks: 40 * FLICKS_PER_S,
  rate: { num: 25, den: 1, drop_frame: false },
}
const line = (start_frames: number, end_frames: number) =>
  ({ id: 1, start_frames, end_frames, text: 'So.' }) as Line
const hit = (id: number, at_frames: number, label: string) => ({ id, at_frames, label }) as Hit

describe('how full the music is wished to be', () => {
  it('is thin under the lines that are spoken in the slot, those that meet as one', () => {
    const lines = [line(300, 350), line(0, 125), line(325, 400), line(1050, 2000), line(3000, 3100)]
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
