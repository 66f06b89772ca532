import { askAgain } from '@/api/again'
import { answer, api, type Chart, type Schemas } from '@/api/client'
import type { Ref } from 'vue'

/** One correction, as the server takes it. */
export type ChartEdit = Schemas[
  | 'Halve'
  | 'Double'
  | 'SetMeter'
  | 'BeatOne'
  | 'Shift'
  | 'SetTempo'
  | 'Tap'
  | 'MoveBar'
  | 'FreeBar'
  | 'SetPoint'
  | 'AcceptTrim'
  | 'SectionEdit'
  | 'SplitSection'
  | 'MarkEdit']

/** Putting the chart of the chosen track right, one edit at a time; a refusal is shown and changes nothing. */
export function useCorrections(trackId: Ref<number | null>, message: Ref<string>) {
  let last: Promise<unknown> = Promise.resolve()

  /** One after the other, in the order of the keys. */
  function keep(call: () => Promise<Chart>): Promise<boolean> {
    const next = last.then(() => send(call))
    last = next
    return next
  }

  async function send(call: () => Promise<Chart>): Promise<boolean> {
    if (trackId.value === null) return false
    try {
      await call()
      await askAgain('tracks', 'production')
      return true
    } catch (error) {
      message.value = (error as Error).message
      return false
    }
  }

  const path = () => ({ params: { path: { track_id: trackId.value! } } })
  return {
    edit: (body: ChartEdit) =>
      keep(() => answer(api.POST('/api/tracks/{track_id}/corrections', { ...path(), body }))),
    drop: () => keep(() => answer(api.DELETE('/api/tracks/{track_id}/corrections', path()))),
  }
}
