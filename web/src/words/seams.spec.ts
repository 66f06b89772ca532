import type { Seam } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { gradeInWords, isAt, keptInWords, smoothnessInWords } from './seams'

const seam = (changed: Partial<Seam>): Seam => ({
  out_samples: 10,
  source_from_samples: 10,
  source_to_samples: 20,
  fade_samples: 2,
  correlation: 0.5,
  percentile: 61.6,
  grade: 'even',
  short_bar: false,
  kind: 'beat',
  reason: '',
  ...changed,
})

describe('a seam in words', () => {
  it('says its grade, and what is unusual about it', () => {
    expect(gradeInWords(seam({}))).toBe('even')
    expect(gradeInWords(seam({ grade: 'faint', short_bar: true }))).toBe('faint, short bar')
    expect(gradeInWords(seam({ kind: 'breath' }))).toBe('even, on a breath')
    expect(gradeInWords(seam({ grade: 'plain', kind: 'anew' }))).toBe('plain, starts anew')
  })

  it('is not set beside the joins of the track where the beat breaks off', () => {
    expect(smoothnessInWords(seam({}))).toBe('62 % of its own joins')
    expect(smoothnessInWords(seam({ kind: 'anew', percentile: 0 }))).toBe('none of its joins')
  })
})

describe('a seam that is to be kept', () => {
  const seams = [
    seam({ source_from_samples: 1000, source_to_samples: 5000 }),
    seam({ source_from_samples: 2000, source_to_samples: 9000 }),
  ]
  it('is known again where it was cut a little beside where it was', () => {
    expect(isAt(seams[0]!, [1015, 4990], 100)).toBe(true)
    expect(isAt(seams[0]!, [1015, 9000], 100)).toBe(false)
  })
  it('is said to be there or to have moved', () => {
    const kept = [
      [1000, 5000],
      [2000, 9000],
      [3000, 4000],
    ]
    expect(keptInWords(seams, [], 100)).toBe('')
    expect(keptInWords(seams, kept.slice(0, 1), 100)).toBe('The kept seam is there.')
    expect(keptInWords(seams, kept.slice(0, 2), 100)).toBe('All 2 kept seams are there.')
    expect(keptInWords(seams, kept, 100)).toBe('2 of 3 kept seams are there; the others have moved.')
  })
})
