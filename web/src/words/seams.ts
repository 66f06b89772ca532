/** Seams in words. No components. */
import type { Seam } from '@/api/client'

/** The samples of the track that a seam leaves and enters. */
export type Places = number[]

const NEAR_S = 0.2 // cuts are aligned anew in every fit

const KIND_WORDS: Record<Seam['kind'], string> = { beat: '', breath: ', on a breath', anew: ', starts anew' }

/** The grade of a seam, and whatever else is unusual about it. */
export const gradeInWords = (seam: Seam) =>
  seam.grade + (seam.short_bar ? ', short bar' : '') + KIND_WORDS[seam.kind]

/** How smooth a seam is beside what the track does by itself. */
export function smoothnessInWords(seam: Seam): string {
  if (seam.kind === 'anew') return 'none of its joins'
  return `${Math.round(seam.percentile)} % of its own joins`
}

export const placesOf = (seam: Seam): Places => [seam.source_from_samples, seam.source_to_samples]

/** Whether a seam is the one that was meant by some places. */
export const isAt = (seam: Seam, places: Places, rate: number) =>
  placesOf(seam).every((at, i) => Math.abs(at - (places[i] ?? 0)) < NEAR_S * rate)

/** How many of the seams that were to be kept are in a fit; nothing where none were. */
export function keptInWords(seams: Seam[], kept: Places[], rate: number): string {
  if (!kept.length) return ''
  const found = kept.filter((places) => seams.some((seam) => isAt(seam, places, rate))).length
  if (found === kept.length)
    return kept.length === 1 ? 'The kept seam is there.' : `All ${found} kept seams are there.`
  return `${found} of ${kept.length} kept seams ${found === 1 ? 'is' : 'are'} there; the others have moved.`
}
