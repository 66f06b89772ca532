/** Seams in words. No components. */
import type { Seam } from '@/api/client'

const KIND_WORDS: Record<Seam['kind'], string> = { beat: '', breath: ', on a breath', anew: ', starts anew' }

/** The grade of a seam, and whatever else is unusual about it. */
export const gradeInWords = (seam: Seam) =>
  seam.grade + (seam.short_bar ? ', short bar' : '') + KIND_WORDS[seam.kind]

/** How smooth a seam is beside what the track does by itself. */
export function smoothnessInWords(seam: Seam): string {
  if (seam.kind === 'anew') return 'none of its joins'
  return `${Math.round(seam.percentile)} % of its own joins`
}
