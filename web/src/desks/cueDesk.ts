import { askAgain } from '@/api/again'
import { answer, api, type Cue, type Schemas } from '@/api/client'
import { productionQuery, queryClient } from '@/api/queries'
import { useTrial } from './useTrial'
import { flicksToSeconds } from '@/time'
import { computed, ref } from 'vue'
import type { PictureDesk } from './pictureDesk'
import type { Session } from './session'
import { useCuePatch } from '@/asking/useCuePatch'

/** What is to be other of a cue, or how that follows from what it is by then. */
export type CueChange = Schemas['CueUpdate'] | ((cue: Cue) => Schemas['CueUpdate'])

export type CueDesk = ReturnType<typeof setUpCueDesk>

/** The cues of the picture, the one that is worked on and its track, and the changes one can make to it. */
export function setUpCueDesk(
  { production, productionId, tracks, attempt }: Session,
  { picture }: PictureDesk,
) {
  const patch = useCuePatch()
  const cueId = ref<number | null>(null)
  const cues = computed(() =>
    (production.value?.cues ?? [])
      .filter((c) => c.picture_id === picture.value?.id)
      .sort((a, b) => a.slot_start_frames - b.slot_start_frames || a.id - b.id),
  )
  const cue = computed(() => cues.value.find((c) => c.id === cueId.value) ?? cues.value[0])
  const track = computed(() => tracks.value?.find((t) => t.id === cue.value?.track_id))
  const slotS = computed(() => flicksToSeconds(cue.value?.slot_length_flicks ?? 0))

  let last: Promise<unknown> = Promise.resolve()
  /** Change the cue, one change after the other: each is of what the one before made. Returns a refusal in words. */
  function updateCue(change: CueChange): Promise<string | null> {
    const next = last.then(() => changeCue(change))
    last = next
    return next
  }

  async function changeCue(wanted: CueChange): Promise<string | null> {
    if (!cue.value) return 'There is no cue on this picture yet. Mark a slot for one on Spot.'
    try {
      const change = typeof wanted === 'function' ? wanted(cue.value) : wanted
      const updated = await patch(cue.value.id, change, change.revision ?? cue.value.revision)
      if (!updated) return null
      queryClient.setQueryData(productionQuery(productionId.value!).queryKey, (old) =>
        old ? { ...old, cues: old.cues.map((c) => (c.id === updated.id ? updated : c)) } : old,
      )
      await askAgain('production')
      return null
    } catch (error) {
      return (error as Error).message
    }
  }

  /** Fit the cue from chart and hits as they are now. */
  async function fitAgain(): Promise<void> {
    const path = { params: { path: { cue_id: cue.value!.id } } }
    await attempt(() => answer(api.POST('/api/cues/{cue_id}/fit', path)))
    await askAgain('fit')
  }

  return { cueId, cues, cue, track, slotS, updateCue, fitAgain, trying: useTrial(() => cue.value?.id) }
}
