import { answer, api, type Cue, type Schemas } from '@/api/client'
import { useCuePatch } from '@/asking/useCuePatch'
import type { Ref } from 'vue'
import { pathOf, type Turns } from './useTurns'

/** Slots for cues on the chosen picture: made, changed, taken away, and those of the version before given a place. */
export function useSlots(pictureId: Ref<number | undefined>, turns: Turns) {
  const patch = useCuePatch()

  const add = (startFrames: number, endFrames: number): Promise<Cue | undefined> => {
    const body = { start_frames: startFrames, end_frames: endFrames, name: '' }
    const path = pathOf(pictureId.value!)
    return turns.change(() => answer(api.POST('/api/pictures/{picture_id}/cues', { ...path, body })))
  }

  const change = (cueId: number, body: Schemas['CueUpdate']) => turns.change(() => patch(cueId, body))

  /** A cue of the version before that could not be carried. */
  function place(cueId: number, startFrames: number) {
    const params = { path: { picture_id: pictureId.value!, cue_id: cueId } }
    const body = { start_frames: startFrames }
    return turns.change(() => answer(api.POST('/api/pictures/{picture_id}/left/{cue_id}', { params, body })))
  }

  const remove = (cueId: number) =>
    turns.change(() => answer(api.DELETE('/api/cues/{cue_id}', { params: { path: { cue_id: cueId } } })))

  return { add, change, place, remove }
}
