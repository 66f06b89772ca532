import type { Chart } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { asHeard, howSure, inWords, likelySpans, tempoAndMeter } from './chart'

const chart = {
  rate: 10,
  beats: [0, 10, 20, 30, 40, 50, 60],
  ring_out_end_samples: 80,
  free_time: false,
  tempo_bpm: 118.02,
  meter: '6/8',
  confidence: { beat: 0.9, tempo: 0.6, meter: 0.8, bar: 0.2 },
} as unknown as Chart

describe('a chart in words and spans', () => {
  it('joins likely beats across one doubtful beat and leaves single ones out', () => {
    expect(likelySpans(chart, [0.9, 0.9, 0.1, 0.8, 0.1, 0.1, 0.9])).toEqual([{ startS: 0, endS: 4 }])
    expect(likelySpans(chart, [0, 0, 0, 0, 0, 0.6, 0.6])).toEqual([{ startS: 5, endS: 8 }])
  })
  it('says how sure each part is', () => {
    expect(inWords(0.5)).toBe('fairly sure')
    expect(howSure(chart)).toContain('beat one: unsure (20 %)')
    expect(howSure({ ...chart, free_time: true })).toContain('breathes')
  })
  it('offers the other tempo, with its key, where one might count that as well', () => {
    expect(asHeard({ ...chart, other_tempo_bpm: 0 })).toBe('as heard; beats sure, beat one unsure')
    const slower = { ...chart, other_tempo_bpm: 59.01 }
    expect(asHeard(slower)).toBe('beats sure, beat one unsure; or 59.0 bpm (H)')
    expect(howSure(slower)).toContain('tempo: fairly sure (60 %), or 59.0 bpm')
    expect(asHeard({ ...chart, other_tempo_bpm: 236.04 })).toContain('(Shift H)')
    expect(asHeard({ ...chart, free_time: true })).toContain('free time')
  })
  it('names tempo and metre, or free time', () => {
    expect(tempoAndMeter(chart)).toEqual(['118.0 bpm', '6/8, unsure'])
    expect(tempoAndMeter({ ...chart, free_time: true })).toEqual(['free time', '7 breaths'])
  })
})
