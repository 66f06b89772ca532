import { answer, api, type Schemas } from '@/api/client'
import { useFaster } from './useFaster'

/** Change fields of a cue as it was looked at; where somebody was faster that is asked about first. */
export function useCuePatch() {
  const { send } = useFaster()
  return (id: number, body: Schemas['CueUpdate'], seen = body.revision) =>
    send(`cue ${id}`, seen, (revision) =>
      answer(
        api.PATCH('/api/cues/{cue_id}', { params: { path: { cue_id: id } }, body: { ...body, revision } }),
      ),
    )
}
