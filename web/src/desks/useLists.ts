import { ApiError, sendFile, type Picture, type Schemas } from '@/api/client'
import { ref, type Ref } from 'vue'
import { useLikeness } from './useLikeness'
import { askAboutPicture } from './useTurns'

type Query = Record<string, string | number[]>

/** Lists of marks that come in as files, onto the chosen picture or as a new version of one; where that is unclear it is asked. */
export function useLists(
  pictureId: Ref<number | undefined>,
  message: Ref<string>,
  show: (pictureId: number) => void,
) {
  const likeness = useLikeness(message)
  const elsewhere = ref<{ words: string; layOnStart: () => void } | null>(null)

  /** A list may start at another timecode than its picture, or name no reels; then somebody is asked what is meant. */
  async function send<T>(
    address: string,
    file: File,
    then: (made: T) => void,
    query: Query = {},
  ): Promise<void> {
    elsewhere.value = null
    const again = (more: Query) => void send(address, file, then, { ...query, ...more })
    try {
      then(await sendFile<T>(address, file, query))
    } catch (error) {
      const words = (error as Error).message
      const code = error instanceof ApiError ? error.code : ''
      if (code === 'starts_elsewhere') elsewhere.value = { words, layOnStart: () => again({ shift: 'true' }) }
      else if (code === 'shots_unknown') {
        const where = address.replace(/versions$/, 'likeness')
        await likeness.ask(words, where, file, query, (refused) => again({ aligned: 'true', refused }))
      } else message.value = words
    }
    await askAboutPicture()
  }

  const importMarks = (file: File): Promise<void> =>
    send<Schemas['ImportRead']>(`/api/pictures/${pictureId.value}/marks`, file, (told) => {
      message.value = [`${file.name}: ${told.words} read.`, ...told.notes].join(' ')
    })

  /** A new version of a picture by an edit list. */
  const addVersion = (ofId: number, file: File): Promise<void> =>
    send<Picture>(`/api/pictures/${ofId}/versions`, file, (made) => show(made.id))

  return { elsewhere, likeness, importMarks, addVersion }
}
