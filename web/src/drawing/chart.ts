/** What a chart says, in the words and spans that are shown. */
import type { Chart } from '@/api/client'

const VOICE_FROM = 0.5
const LEAST_BEATS = 2

export interface MarkedSpan {
  startS: number
  endS: number
}

/** Spans of beats whose likelihood is at least a half, gaps of one beat closed, single beats left out. */
export function likelySpans(chart: Chart, likelihood: number[]): MarkedSpan[] {
  const ends = [...chart.beats.slice(1), chart.ring_out_end_samples]
  const spans: { first: number; last: number }[] = []
  likelihood.forEach((value, i) => {
    if (value < VOICE_FROM) return
    const open = spans.at(-1)
    if (open && i - open.last <= 2) open.last = i
    else spans.push({ first: i, last: i })
  })
  return spans
    .filter((s) => s.last - s.first + 1 >= LEAST_BEATS)
    .map((s) => ({ startS: chart.beats[s.first]! / chart.rate, endS: ends[s.last]! / chart.rate }))
}

/** "sure", "fairly sure" or "unsure", for a confidence of 0 to 1. */
export function inWords(confidence: number): string {
  if (confidence >= 0.7) return 'sure'
  return confidence >= 0.4 ? 'fairly sure' : 'unsure'
}

/** The chart's tempo and metre, with how sure beat one is, in short lines. */
export function tempoAndMeter(chart: Chart): string[] {
  if (chart.free_time) return ['free time', `${chart.beats.length} breaths`]
  return [bpm(chart.tempo_bpm), `${chart.meter}, ${inWords(chart.confidence.bar)}`]
}

/** How sure the chart is of its beats, in a line; where one might count half or twice as fast, with that and its key. */
export function asHeard(chart: Chart): string {
  if (chart.free_time) return 'free time: seams go on breaths'
  const c = chart.confidence
  const sure = `beats ${inWords(c.beat)}, beat one ${inWords(c.bar)}`
  const key = chart.other_tempo_bpm < chart.tempo_bpm ? 'H' : 'Shift H'
  return chart.other_tempo_bpm ? `${sure}; or ${bpm(chart.other_tempo_bpm)} (${key})` : `as heard; ${sure}`
}

/** How sure the chart is, part by part, for a tooltip. */
export function howSure(chart: Chart): string {
  if (chart.free_time) return 'No steady beat was heard: seams go where the music breathes.'
  const c = chart.confidence
  return [
    `Beats: ${inWords(c.beat)} (${pct(c.beat)})`,
    `tempo: ${inWords(c.tempo)} (${pct(c.tempo)})` +
      (chart.other_tempo_bpm ? `, or ${bpm(chart.other_tempo_bpm)}` : ''),
    `metre: ${inWords(c.meter)} (${pct(c.meter)})`,
    `beat one: ${inWords(c.bar)} (${pct(c.bar)})`,
  ].join(', ')
}

function bpm(tempo: number): string {
  return `${tempo.toFixed(1)} bpm`
}

function pct(share: number): string {
  return `${Math.round(100 * share)} %`
}
