/** What is listened for where two passages meet, as one choice. No components. */
import type { Asks } from '@/api/client'

type Listening = NonNullable<Asks['listening']>
type Respect = keyof Listening

const MUCH = 2.5
const RESPECTS: Respect[] = ['groove', 'harmony', 'colour', 'level', 'voice']

export const LISTENING_WORDS: Record<'all' | Respect, string> = {
  all: 'everything alike',
  groove: 'the groove',
  harmony: 'the harmony',
  colour: 'the colour',
  level: 'the level',
  voice: 'the voice',
}

/** What is asked for by a choice; nothing for everything alike. */
export const listeningFor = (choice: string): Listening | undefined =>
  RESPECTS.includes(choice as Respect) ? ({ [choice]: MUCH } as Listening) : undefined

/** The choice that some weights are; 'own' for weights that are none of them. */
export function chosenListening(listening: Partial<Listening> | undefined): string {
  const weight = (respect: Respect) => listening?.[respect] ?? 1
  const unusual = RESPECTS.filter((respect) => weight(respect) !== 1)
  if (!unusual.length) return 'all'
  return unusual.length === 1 && weight(unusual[0]!) === MUCH ? unusual[0]! : 'own'
}
