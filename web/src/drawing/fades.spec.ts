import type { Plan } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { levelsOf } from './fades'
import { speedWords } from './speeds'

describe('the level of a fit', () => {
  const none = { n_samples: 0, shape: 'linear' as const }
  const plan = {
    rate: 100,
    target_samples: 2000,
    fade_in: none,
    fade_out: { n_samples: 400, shape: 'cosine' },
    rests: [
      {
        out_in_samples: 800,
        out_out_samples: 1000,
        fade_before: { n_samples: 100, shape: 'linear' },
        fade_after: { n_samples: 100, shape: 'linear' },
      },
    ],
  } as unknown as Plan

  it('falls with the fade at its end, around a rest, and is whole between them', () => {
    const level = levelsOf(plan)
    expect([0, 5, 7.5, 10.25, 12, 16].map(level)).toEqual([1, 1, 0.5, 0.25, 1, 1])
    expect(level(18)).toBeCloseTo(0.5, 9)
    expect(level(17)).toBeCloseTo(0.5 + 0.5 * Math.cos(Math.PI / 4), 9)
    expect(level(20)).toBeCloseTo(0, 9)
  })
  it('is whole where nothing is faded', () => {
    const level = levelsOf({ ...plan, fade_out: none, rests: [] })
    expect([0, 10, 20].map(level)).toEqual([1, 1, 1])
  })
})

describe('a change of speed', () => {
  it('is said with the tempo it makes, where there is one', () => {
    expect(speedWords(-1.834, 118)).toBe('−1.83 % · 115.8 bpm')
    expect(speedWords(0.5, null)).toBe('+0.50 %')
  })
})
