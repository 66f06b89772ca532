import { answer, api, ApiError, sendFile, type Schemas } from '@/api/client'
import { queryClient, sheetQuery, shotsQuery } from '@/api/queries'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { useCuePatch } from '@/asking/useCuePatch'
import { useFaster } from '@/asking/useFaster'
import { useFollowedJob } from '@/asking/useFollowedJob'
import { useLikeness } from './useLikeness'

/** One change of a sheet, as the server takes it. */
export type SheetEdit = Schemas[
  | 'AddHit'
  | 'ChangeHit'
  | 'MoveHits'
  | 'HitsEdit'
  | 'AddLine'
  | 'ChangeLine'
  | 'RemoveLines'
  | 'CutsEdit'
  | 'CutEdit']

type Sheet = Schemas['SheetRead']
type Picture = Schemas['PictureRead']

/** What is spotted on the chosen picture, and the changes one can make to it; a refusal is shown and changes nothing. */
export function useSheet(
  pictureId: Ref<number | undefined>,
  productionId: Ref<number | undefined>,
  message: Ref<string>,
  show: (pictureId: number) => void,
) {
  let last: Promise<unknown> = Promise.resolve()
  const { send } = useFaster()
  const patch = useCuePatch()
  const likeness = useLikeness(message)
  const elsewhere = ref<{ words: string; layOnStart: () => void } | null>(null)
  const enabled = computed(() => pictureId.value !== undefined)
  const sheet = useQuery(computed(() => ({ ...sheetQuery(pictureId.value ?? 0), enabled: enabled.value })))
  const shots = useQuery(computed(() => ({ ...shotsQuery(pictureId.value ?? 0), enabled: enabled.value })))

  const refresh = () =>
    Promise.all(
      ['sheet', 'production', 'tracks', 'fit'].map((key) =>
        queryClient.invalidateQueries({ queryKey: [key] }),
      ),
    )

  /** One after the other, in the order of the keys. Returns what the server made of it, or nothing if it refused. */
  function keep<T>(call: () => Promise<T>): Promise<T | undefined> {
    const next = last.then(async () => {
      try {
        return await call()
      } catch (error) {
        message.value = (error as Error).message
        return undefined
      }
    })
    last = next
    return next
  }

  const path = (picture_id: number) => ({ params: { path: { picture_id } } })

  /** Returns the sheet with it, or nothing if it was refused. */
  function edit(body: SheetEdit): Promise<Sheet | undefined> {
    const id = pictureId.value
    if (id === undefined) return Promise.resolve(undefined)
    return keep(async () => {
      const made = await send(`sheet ${id}`, 'revision' in body ? body.revision : null, (revision) => {
        const sent = 'revision' in body ? { ...body, revision } : body
        return answer(api.POST('/api/pictures/{picture_id}/edits', { ...path(id), body: sent }))
      })
      if (!made) return undefined
      queryClient.setQueryData(sheetQuery(id).queryKey, made)
      if (body.edit.endsWith('cuts') || body.edit === 'cut' || body.edit === 'join')
        await queryClient.invalidateQueries({ queryKey: shotsQuery(id).queryKey })
      void queryClient.invalidateQueries({ queryKey: ['production'] })
      return made
    })
  }

  /** What was meant by a typed position, in frames; nothing if it cannot be read. */
  function position(text: string, hereFrames: number): Promise<number | undefined> {
    return keep(async () => {
      const query = { text, here_frames: hereFrames }
      const params = { path: { picture_id: pictureId.value! }, query }
      return (await answer(api.GET('/api/pictures/{picture_id}/position', { params }))).frames
    })
  }

  /** Send a list that may start at another timecode than its picture; then somebody is asked whether it is meant to. */
  async function sendList<T>(
    address: string,
    file: File,
    then: (made: T) => void,
    query: Record<string, string | number[]> = {},
  ): Promise<void> {
    elsewhere.value = null
    try {
      then(await sendFile<T>(address, file, query))
    } catch (error) {
      const words = (error as Error).message
      const code = error instanceof ApiError ? error.code : ''
      if (code === 'starts_elsewhere')
        elsewhere.value = {
          words,
          layOnStart: () => void sendList(address, file, then, { ...query, shift: 'true' }),
        }
      else if (code === 'shots_unknown')
        await likeness.ask(
          words,
          address.replace(/versions$/, 'likeness'),
          file,
          query,
          (refused) => void sendList(address, file, then, { ...query, aligned: 'true', refused }),
        )
      else message.value = words
    }
    await refresh()
  }

  const importMarks = (file: File): Promise<void> =>
    sendList<Schemas['ImportRead']>(`/api/pictures/${pictureId.value}/marks`, file, (told) => {
      message.value = [`${file.name}: ${told.words} read.`, ...told.notes].join(' ')
    })

  const dialogue = useFollowedJob((job) => {
    if (job.state === 'done') message.value = `${job.told[0]!.toUpperCase()}${job.told.slice(1)} found.`
    if (job.state === 'failed') message.value = job.error ?? 'The sound could not be searched for dialogue.'
    void refresh()
  })

  async function findDialogue(trackId: number | null): Promise<void> {
    const body = { track_id: trackId, at_frames: 0 }
    const job = await keep(() =>
      answer(api.POST('/api/pictures/{picture_id}/dialogue', { ...path(pictureId.value!), body })),
    )
    if (job) dialogue.follow(job.id)
    await refresh()
  }

  async function addCue(startFrames: number, endFrames: number): Promise<Schemas['CueRead'] | undefined> {
    const body = { start_frames: startFrames, end_frames: endFrames, name: '' }
    const made = await keep(() =>
      answer(api.POST('/api/pictures/{picture_id}/cues', { ...path(pictureId.value!), body })),
    )
    await refresh()
    return made
  }

  async function changeCue(cueId: number, body: Schemas['CueUpdate']): Promise<void> {
    await keep(() => patch(cueId, body))
    await refresh()
  }

  /** A cue of the version before that could not be carried. */
  async function placeCue(cueId: number, startFrames: number): Promise<void> {
    const params = { path: { picture_id: pictureId.value!, cue_id: cueId } }
    const body = { start_frames: startFrames }
    await keep(() => answer(api.POST('/api/pictures/{picture_id}/left/{cue_id}', { params, body })))
    await refresh()
  }

  async function removeCue(cueId: number): Promise<void> {
    await keep(() => answer(api.DELETE('/api/cues/{cue_id}', { params: { path: { cue_id: cueId } } })))
    await refresh()
  }

  async function addBlank(body: Schemas['BlankPicture']): Promise<Picture> {
    const params = { path: { production_id: productionId.value! } }
    const made = await answer(api.POST('/api/productions/{production_id}/pictures/blank', { params, body }))
    await refresh()
    return made
  }

  /** A picture from an edit list, or a new version of one by it. */
  async function addFromList(file: File, rate: string): Promise<Picture> {
    const made = await sendFile<Picture>(`/api/productions/${productionId.value}/pictures/list`, file, {
      rate,
    })
    await refresh()
    return made
  }

  /** A new version of a picture by an edit list. */
  const addVersion = (ofId: number, file: File): Promise<void> =>
    sendList<Picture>(`/api/pictures/${ofId}/versions`, file, (made) => show(made.id))

  async function scanAgain(id: number): Promise<void> {
    await keep(() => answer(api.POST('/api/pictures/{picture_id}/scan', path(id))))
    await refresh()
  }

  async function updatePicture(id: number, body: Schemas['PictureUpdate']): Promise<void> {
    await keep(() =>
      send(`picture ${id}`, body.revision, (revision) =>
        answer(api.PATCH('/api/pictures/{picture_id}', { ...path(id), body: { ...body, revision } })),
      ),
    )
    await refresh()
  }

  async function removePicture(id: number): Promise<void> {
    await keep(() => answer(api.DELETE('/api/pictures/{picture_id}', path(id))))
    await refresh()
  }

  return {
    /** All steps that are on their way have arrived. */
    settled: () => last,
    elsewhere,
    likeness,
    sheet: sheet.data,
    shots: shots.data,
    edit,
    position,
    importMarks,
    findDialogue,
    addCue,
    changeCue,
    placeCue,
    removeCue,
    addBlank,
    addFromList,
    addVersion,
    scanAgain,
    updatePicture,
    removePicture,
  }
}
