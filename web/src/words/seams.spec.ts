import type { Seam, SeamSaid } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { gradeInWords, keptInWords, smoothnessInWords, verdictInWords } from './seams'

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

describe('what was said of a seam', () => {
  const said = (wish: string, verdict = '') => ({ wish, verdict }) as SeamSaid

  it('is whether those that were to be kept are there, or have moved', () => {
    expect(keptInWords([said('')], 0)).toBe('')
    expect(keptInWords([said('kept')], 1)).toBe('The kept seam is there.')
    expect(keptInWords([said('kept'), said(''), said('kept')], 2)).toBe('All 2 kept seams are there.')
    expect(keptInWords([said('kept'), said('')], 3)).toBe(
      '1 of 3 kept seams is there; the others have moved.',
    )
  })
  it('is how it was heard', () => {
    expect([undefined, said(''), said('', 'passed'), said('', 'failed')].map(verdictInWords)).toEqual([
      '',
      '',
      'good',
      'not there',
    ])
  })
})
