/** What would have the musts of a cue met, in words; and what else may be asked for where a seam is plain. No components. */
import type { Change, Asks, Plan } from '@/api/client'

const counted = (n: number, one: string) => `${n} ${one}${n === 1 ? '' : 's'}`

export function changeInWords({ kind, value }: Change): string {
  const n = value ?? 0
  switch (kind) {
    case 'give_pct':
      return `a give of ${n} %`
    case 'max_seams':
      return `${counted(n, 'seam')} at most`
    case 'hold_bars':
      return `${counted(n, 'bar')} between two seams`
    case 'tolerance_frames':
      return `${counted(n, 'frame')} of tolerance`
    case 'opening':
      return 'another opening'
    case 'landing':
      return 'its own ending'
  }
}

/** What a change asks of a fit; nothing for one of the hits themselves. */
export const asksOf = ({ kind, value }: Change): Partial<Asks> | undefined =>
  kind === 'tolerance_frames' ? undefined : { [kind]: value ?? undefined }

export interface Other {
  words: string
  asks: Partial<Asks>
}

/** Other openings and endings, where keeping the track's own costs a seam that is heard; none where none would help. */
export function othersFor(plan: Plan, asks: Asks): Other[] {
  if (!plan.seams.some((seam) => seam.grade === 'plain' && seam.kind !== 'anew')) return []
  const openings: Other[] = [
    { words: 'open at a section', asks: { opening: 'section' } },
    { words: 'open on any downbeat', asks: { opening: 'bar' } },
  ]
  const ends: Other[] = [{ words: 'end in a fade', asks: { landing: 'fade' } }]
  return [...(asks.opening ? [] : openings), ...(asks.landing === 'fade' ? [] : ends)]
}
