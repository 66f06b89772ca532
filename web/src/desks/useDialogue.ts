import { answer, api } from '@/api/client'
import { useFollowedJob } from '@/asking/useFollowedJob'
import type { Ref } from 'vue'
import { askAboutPicture, pathOf, type Turns } from './useTurns'

/** Lines that are found in a sound: the picture's own, or that of a track. */
export function useDialogue(pictureId: Ref<number | undefined>, turns: Turns, message: Ref<string>) {
  const job = useFollowedJob((ended) => {
    if (ended.state === 'done') message.value = `${ended.told[0]!.toUpperCase()}${ended.told.slice(1)} found.`
    if (ended.state === 'failed')
      message.value = ended.error ?? 'The sound could not be searched for dialogue.'
    void askAboutPicture()
  })

  return async function find(trackId: number | null): Promise<void> {
    const body = { track_id: trackId, at_frames: 0 }
    const path = pathOf(pictureId.value!)
    const begun = await turns.change(() =>
      answer(api.POST('/api/pictures/{picture_id}/dialogue', { ...path, body })),
    )
    if (begun) job.follow(begun.id)
  }
}
