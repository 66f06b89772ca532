/** Seams in words. No components. */
import type { Seam, SeamSaid } from '@/api/client'

const KIND_WORDS: Record<Seam['kind'], string> = { beat: '', breath: ', on a breath', anew: ', starts anew' }

/** The grade of a seam, and whatever else is unusual about it. */
export const gradeInWords = (seam: Seam) =>
  seam.grade + (seam.short_bar ? ', short bar' : '') + KIND_WORDS[seam.kind]

/** How smooth a seam is beside what the track does by itself. */
export function smoothnessInWords(seam: Seam): string {
  if (seam.kind === 'anew') return 'none of its joins'
  return `${Math.round(seam.percentile)} % of its own joins`
}

const VERDICT_WORDS: Record<string, string> = { passed: 'good', doubtful: 'doubtful', failed: 'not there' }

/** What was heard at a seam, in whatever fit it was; nothing before somebody listened. */
export const verdictInWords = (said: SeamSaid | undefined) => VERDICT_WORDS[said?.verdict ?? ''] ?? ''

/** How many of the seams that were to be kept are in a fit; nothing where none were. */
export function keptInWords(inFit: readonly SeamSaid[], nKept: number): string {
  if (!nKept) return ''
  const found = inFit.filter((seam) => seam.wish === 'kept').length
  if (found === nKept) return nKept === 1 ? 'The kept seam is there.' : `All ${found} kept seams are there.`
  return `${found} of ${nKept} kept seams ${found === 1 ? 'is' : 'are'} there; the others have moved.`
}
