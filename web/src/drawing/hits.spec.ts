import type { Hit, Plan } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { hitsInWords, landedHits, offInWords, pathOfThread } from './hits'

const rate = { num: 25, den: 1, drop_frame: false }
const met = (asked: number, landed: number | null, kind = 'downbeat') => ({
  asked_samples: asked,
  landed_samples: landed,
  source_samples: landed,
  kind,
  weight: 'must',
  tolerance_samples: 20,
  label: '',
})
const plan = (hits: unknown[]) => ({ rate: 1000, hits }) as Plan
const spotted = (frame: number, label: string) =>
  ({ id: frame, at_frames: frame, label, kind: 'downbeat' }) as Hit

describe('hits as they landed', () => {
  it('have the names of the sheet, from the start of the slot on', () => {
    const hits = landedHits(
      plan([met(4000, 4008), met(8000, 8100)]),
      [spotted(150, 'Door'), spotted(300, 'Title')],
      50,
      rate,
    )
    expect(hits.map((h) => [h.label, h.isKept, h.askedS])).toEqual([
      ['Door', true, 4],
      ['', false, 8],
    ])
    expect(hits.map(offInWords)).toEqual(['0.2 frames late', '2.5 frames late'])
    expect(hitsInWords(hits)).toBe('1 of 2 hits met.')
  })
  it('say when nothing of their kind sounds, and when all is well', () => {
    const [none] = landedHits(plan([met(4000, null)]), [], 0, rate)
    expect([none!.isKept, offInWords(none!)]).toEqual([false, 'nothing of its kind sounds'])
    expect(hitsInWords(landedHits(plan([met(40, 40)]), [], 0, rate))).toBe('The hit is met.')
    expect(hitsInWords([])).toBe('')
  })
  it('are early and late in whole words', () => {
    const words = [-40, 40, 400, 0].map((off) =>
      offInWords(landedHits(plan([met(900, 900 + off)]), [], 0, rate)[0]!),
    )
    expect(words).toEqual(['1.0 frame early', '1.0 frame late', '10 frames late', 'on the frame'])
  })
  it('are threads to the place of the track that meets them, and end above where they are missed', () => {
    const [out, source] = [
      { startS: 0, pxPerS: 10, widthPx: 900 },
      { startS: 2, pxPerS: 5, widthPx: 900 },
    ]
    const [kept, missed] = landedHits(plan([met(40_000, 40_008), met(8000, null)]), [], 0, rate)
    expect(pathOfThread(kept!, { out, source }, 200, 300)).toBe(
      'M400.1 200.0C400.1 255.0 190.0 245.0 190.0 300.0v14',
    )
    expect(pathOfThread(missed!, { out, source }, 200, 300)).toBe('')
  })
})
