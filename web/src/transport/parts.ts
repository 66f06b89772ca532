/** Clips of a programme, each with where its sound is asked for. */
import type { Clip, MadeProgramme } from '@/api/client'

export interface Part {
  clip: Clip
  /** Where its sound is asked for, from the sample on that is heard first; another address is another sound. */
  url: string
  /** The rate it is asked for at, which is that of the programme. */
  rate: number
  channels: number
}

const DEFAULT_RATE_HZ = 48_000

export const rateOf = (made: MadeProgramme | null): number => made?.programme.rate ?? DEFAULT_RATE_HZ

export const lengthOf = (made: MadeProgramme | null): number =>
  made ? made.programme.n_samples / made.programme.rate : 0

export function partsOf({ programme, sounds }: MadeProgramme): Part[] {
  return programme.clips.map((clip) => {
    const { url, channels } = sounds.find((sound) => sound.name === clip.sound)!
    const first = clip.start_samples
      ? `${url.includes('?') ? '&' : '?'}from_samples=${clip.start_samples}`
      : ''
    return { clip, url: url + first, rate: programme.rate, channels }
  })
}

/** Whether two programmes are other in nothing but levels. */
export function isSameButLevels(a: MadeProgramme, b: MadeProgramme): boolean {
  return withoutLevels(a) === withoutLevels(b)
}

function withoutLevels({
  of,
  programme: { rate, channels, n_samples, clips, buses },
  sounds,
}: MadeProgramme): string {
  const placed = clips.map((c) => [c.sound, c.at_samples, c.n_samples, c.start_samples, c.bus])
  return JSON.stringify([of, rate, channels, n_samples, placed, buses.map((b) => b.name), sounds])
}
