/** Gain curves and fades as steps on the audio clock: what a mixdown multiplies sample by sample, as few ramps as hold it. */
import type { Schemas } from '@/api/client'

export type Fade = Schemas['Fade']
export type GainCurve = Schemas['GainCurve']

/** What has a level: a clip at its place in the programme, or a bus over the whole of it. In samples. */
export interface Levelled {
  at_samples: number
  n_samples: number
  gain: GainCurve
  fade_in: Fade
  fade_out: Fade
}

/** A gain at a place, and how it is come to from the step before: at once, or along a straight line in gain or in dB. */
export interface GainStep {
  at: number
  gain: number
  by: 'set' | 'linear' | 'exponential'
}

const NOTHING_DB = -120 // a gain of this or less is silence
/** Where a line in dB comes from silence or goes to it: there is no zero on it. */
export const NEARLY_NOTHING = 10 ** (NOTHING_DB / 20)
const MOST_STEPS_OF_A_FADE = 256

const factorOf = (db: number): number => (db <= NOTHING_DB ? 0 : 10 ** (db / 20))

/**
 * The gain from one sample of the programme to another, places in the programme's samples; empty where the two hold nothing of
 * it. Gain is exact at each step. In between it is exact outside fades, and within 0.001 of it where a curve moves in one.
 */
export function stepsOf(levelled: Levelled, from: number, until: number): GainStep[] {
  const { at_samples: start, n_samples: length } = levelled
  const [first, end] = [Math.max(0, from - start), Math.min(until - start, length)]
  if (first >= end) return []
  const begin = gainAt(levelled, first)
  const steps: GainStep[] = [
    { at: first - 0.5, gain: begin, by: 'set' }, // a step on a sample may take hold on the one after it
    { at: first, gain: begin, by: 'set' },
  ]
  const places = placesOf(levelled, first, end)
  for (const [i, place] of places.entries())
    if (i) steps.push(...stepsBetween(levelled, places[i - 1]!, place))
  return steps.map((step) => ({ ...step, at: step.at + start }))
}

/** Where the gain may turn, the ends included, in samples from the start of what has it. */
function placesOf({ gain, fade_in, fade_out, n_samples }: Levelled, first: number, end: number): number[] {
  const out = n_samples - fade_out.n_samples
  const turns = [
    ...gain.points.map((p) => p.at_samples),
    ...pieces(0, fade_in.n_samples),
    ...pieces(out, n_samples - 1),
  ].filter((place) => place > first && place < end)
  return [...new Set([first, ...turns, end])].sort((a, b) => a - b)
}

/** A fade in pieces that are straight enough. */
function pieces(from: number, until: number): number[] {
  if (until <= from) return []
  const n = Math.min(until - from, MOST_STEPS_OF_A_FADE)
  return Array.from({ length: n + 1 }, (_, i) => from + ((until - from) * i) / n)
}

function stepsBetween(levelled: Levelled, from: number, until: number): GainStep[] {
  const [a, b] = [gainAt(levelled, from), gainAt(levelled, until)]
  const isFaded =
    from < levelled.fade_in.n_samples || until > levelled.n_samples - levelled.fade_out.n_samples
  if (isFaded) return [{ at: until, gain: b, by: 'linear' }]
  if (a === b) return [{ at: until, gain: b, by: 'set' }]
  const line: GainStep[] = [{ at: until, gain: b || NEARLY_NOTHING, by: 'exponential' }]
  if (a === 0) line.unshift({ at: from, gain: NEARLY_NOTHING, by: 'set' })
  if (b === 0) line.push({ at: until, gain: 0, by: 'set' })
  return line
}

function gainAt({ gain, fade_in, fade_out, n_samples }: Levelled, place: number): number {
  const rising = fade_in.n_samples ? shaped(place / fade_in.n_samples, fade_in) : 1
  const falling =
    fade_out.n_samples > 1 ? shaped((n_samples - 1 - place) / (fade_out.n_samples - 1), fade_out) : 1
  return factorOf(levelAt(gain, place)) * rising * falling
}

function shaped(part: number, { shape }: Fade): number {
  const x = Math.min(Math.max(part, 0), 1)
  return shape === 'cosine' ? 0.5 - 0.5 * Math.cos(Math.PI * x) : x
}

/** In dB: straight lines between the points, level before the first and after the last. */
function levelAt({ points }: GainCurve, place: number): number {
  const next = points.findIndex((p) => p.at_samples > place)
  const [before, after] = next < 0 ? [points.at(-1), undefined] : [points[next - 1], points[next]]
  if (!before || !after) return (before ?? after)?.gain_db ?? 0
  const part = (place - before.at_samples) / (after.at_samples - before.at_samples)
  return before.gain_db + part * (after.gain_db - before.gain_db)
}
