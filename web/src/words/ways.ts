/** The methods of fitting and what each costs, in words. No components. */
import { ASKS } from '@/api/asks'
import type { Asks, Way } from '@/api/client'

export type Method = NonNullable<Asks['method']>

const NAMES: Record<Method, string> = {
  blend: 'Blend',
  rearrange: 'Rearrange',
  loop: 'Loop',
  stretch: 'Stretch',
  bend: 'Bend',
  trim: 'Trim',
}
export const METHOD_WORDS = Object.fromEntries(
  Object.entries(NAMES).map(([method, name]) => [method, { name, says: ASKS.method.choices[method]! }]),
) as Record<Method, { name: string; says: string }>

const counted = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`

/** The seams of a way by grade, the worst first: what a listener may notice comes before what nobody does. */
export function seamsInWords(costs: NonNullable<Way['costs']>): string {
  const total = costs.even + costs.faint + costs.plain
  if (!total) return 'none'
  const graded = (['plain', 'faint', 'even'] as const).filter((g) => costs[g]).map((g) => `${costs[g]} ${g}`)
  const short = costs.short_bars ? `, ${counted(costs.short_bars, 'short bar')}` : ''
  return graded.join(', ') + short
}

export function speedInWords(costs: NonNullable<Way['costs']>): string {
  const change = Math.abs(costs.speed_change_pct)
  if (change < 0.02) return 'its own'
  const share = costs.speed_changed_pct >= 95 ? '' : `, ${Math.round(costs.speed_changed_pct)} % of it`
  return `${change.toFixed(1)} % ${costs.speed_change_pct > 0 ? 'faster' : 'slower'}${share}`
}

/** Whether the piece's own opening and ending are heard, and what was done to the ending. */
export function endsInWords(costs: NonNullable<Way['costs']>, rate: number): [string, string] {
  const seconds = (samples: number) => `${(samples / rate).toFixed(1)} s`
  const ending = !costs.keeps_ending
    ? `faded over ${seconds(costs.fade_samples)}`
    : costs.fade_samples
      ? `its own, faded ${seconds(costs.fade_samples)}`
      : costs.silence_samples > rate / 20
        ? `its own, ${seconds(costs.silence_samples)} silence`
        : 'its own'
  return [costs.keeps_opening ? 'its own' : 'another place', ending]
}
