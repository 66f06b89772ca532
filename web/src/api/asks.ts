/** What may be asked of a fit: names, units, ranges, defaults and words, as the API declares them. */
import declared from './asks.json'

export type AskName = keyof typeof declared

export interface Ask {
  label: string
  words: string
  /** Behind a number; what a field says there may be more. */
  unit: string
  after: string
  /** What is taken where nothing is asked, where that is no one value. */
  usual: string
  low: number | null
  high: number | null
  default: number | string | null
  /** What each of its words means, where it is one of some. */
  choices: Record<string, string>
}

export const ASKS: Record<AskName, Ask> = declared

/** What it is, and what may be typed. */
export function askInWords({ words, low, high, unit }: Ask): string {
  return low === null || high === null ? words : `${words}, ${low} to ${high} ${unit}`.trimEnd()
}

/** What stands in an empty field. */
export const usualOf = ({ default: usual }: Ask): string => (usual === null ? 'any' : String(usual))
