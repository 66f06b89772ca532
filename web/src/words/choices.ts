/** The bars that could land on a hit, in words. No components. */
import type { Choice, HitChoices } from '@/api/client'
import type { LandedHit } from '@/drawing/hits'
import { speedWords } from '@/drawing/speeds'

const HELD_ON_A_BEAT = ['downbeat', 'beat', 'section']

/** Whether a bar can be pinned to a hit: one that is spotted, and met on a beat. */
export const canBePinned = (hit: LandedHit): boolean => hit.id > 0 && HELD_ON_A_BEAT.includes(hit.kind)

/** What could land on a hit; nothing where it lies in a silence. */
export function choicesFor(all: readonly HitChoices[], hit: LandedHit, rate: number): HitChoices | undefined {
  return all.find((c) => Math.abs(c.asked_samples - hit.askedS * rate) < 1)
}

/** What lands on a hit now. */
export const chosenOf = (offered: HitChoices | undefined): Choice | undefined =>
  offered?.choices.find((c) => c.source_samples === offered.source_samples)

/** A bar and its beat, which is said where it is not the first. */
export const barWords = (choice: Choice): string =>
  choice.beat === 1 ? `bar ${choice.bar}` : `bar ${choice.bar}, beat ${choice.beat}`

/** So many beats, as bars where they are whole ones. */
export function countWords(beats: number, perBar: number): string {
  const [n, unit] = beats % perBar ? [beats, 'beat'] : [beats / perBar, 'bar']
  return `${n === 1 ? 'one' : n} ${unit}${n === 1 ? '' : 's'}`
}

/** How many more or fewer are then played before the hit than now. */
export function moreWords(choice: Choice, now: Choice | undefined, perBar: number): string {
  if (now?.beats_before == null || choice.beats_before == null) return ''
  const more = choice.beats_before - now.beats_before
  if (!more) return 'as it is'
  return `${countWords(Math.abs(more), perBar)} ${more > 0 ? 'more' : 'fewer'}`
}

const pctWords = (pct: number | null) => (pct === null ? '' : speedWords(pct, null))

/** What a bar makes of the speed on either side of its hit; nothing where nothing is held. */
export function eitherSideWords(choice: Choice): string {
  const said = [
    choice.before_pct === null ? '' : `${pctWords(choice.before_pct)} before`,
    choice.after_pct === null ? '' : `${pctWords(choice.after_pct)} after`,
  ]
  return said.filter(Boolean).join(', ')
}
