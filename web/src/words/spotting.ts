/** Words and colours of spotting, in one place. */
import type { Hit } from '@/api/client'

export const HIT_WORDS: Record<Hit['kind'], string> = {
  downbeat: 'beat one',
  beat: 'any beat',
  section: 'new section',
  last_hit: 'last hit',
  silence: 'silence',
}
/** What a flag carries, so that kinds differ without colour. */
export const HIT_SIGNS: Record<Hit['kind'], string> = {
  downbeat: '1',
  beat: 'b',
  section: '§',
  last_hit: 'end',
  silence: '–',
}
export const WEIGHT_WORDS: Record<Hit['weight'], string> = { must: 'must', should: 'should', nice: 'nice' }

export const CUE_COLOURS = {
  night: {
    amber: '#c9923a',
    sage: '#7fa38c',
    sky: '#7399bf',
    rose: '#bd7584',
    violet: '#9a83bb',
    sand: '#a3957f',
  },
  day: {
    amber: '#8a6510',
    sage: '#2f6455',
    sky: '#2c5f85',
    rose: '#91405a',
    violet: '#6a4a8c',
    sand: '#6b5e49',
  },
}
export type CueColour = keyof typeof CUE_COLOURS.night
export const COLOUR_NAMES = Object.keys(CUE_COLOURS.night) as CueColour[]
export const cueColour = (name: string, dark: boolean): string =>
  CUE_COLOURS[dark ? 'night' : 'day'][name as CueColour] ?? CUE_COLOURS.night.amber

export const STATUS_WORDS = {
  open: 'to do',
  working: 'in work',
  review: 'for approval',
  approved: 'approved',
}
export type CueStatus = keyof typeof STATUS_WORDS

export const CHANGE_WORDS = {
  moved: 'moved',
  longer: 'longer',
  shorter: 'shorter',
  retrimmed: 'other frames of it',
  out: 'gone',
  in: 'new',
}
