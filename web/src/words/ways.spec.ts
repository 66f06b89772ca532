import type { Way } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { endsInWords, seamsInWords, speedInWords } from './ways'

type Costs = NonNullable<Way['costs']>
const costs = (more: Partial<Costs>): Costs => ({
  even: 0,
  faint: 0,
  plain: 0,
  short_bars: 0,
  speed_change_pct: 0,
  speed_changed_pct: 0,
  hits_kept: 0,
  hits: 0,
  keeps_opening: true,
  keeps_ending: true,
  repeated_pct: 0,
  fade_samples: 0,
  silence_samples: 0,
  sections: 'A B',
  ...more,
})

describe('what a way costs, in words', () => {
  it('names seams the worst first, and short bars', () => {
    expect(seamsInWords(costs({}))).toBe('none')
    expect(seamsInWords(costs({ even: 3, plain: 1, short_bars: 1 }))).toBe('1 plain, 3 even, 1 short bar')
  })
  it('says speed only where somebody could tell', () => {
    expect(speedInWords(costs({ speed_change_pct: -0.01, speed_changed_pct: 90 }))).toBe('its own')
    expect(speedInWords(costs({ speed_change_pct: -1.82, speed_changed_pct: 40 }))).toBe(
      '1.8 % slower, 40 % of it',
    )
    expect(speedInWords(costs({ speed_change_pct: 2, speed_changed_pct: 98 }))).toBe('2.0 % faster')
  })
  it('says what became of opening and ending', () => {
    expect(endsInWords(costs({}), 100)).toEqual(['its own', 'its own'])
    expect(endsInWords(costs({ keeps_opening: false, keeps_ending: false, fade_samples: 310 }), 100)).toEqual(
      ['another place', 'faded over 3.1 s'],
    )
    expect(endsInWords(costs({ fade_samples: 130 }), 100)[1]).toBe('its own, faded 1.3 s')
    expect(endsInWords(costs({ silence_samples: 70 }), 100)[1]).toBe('its own, 0.7 s silence')
  })
})
