import { askAgain } from '@/api/again'
import { answer, api, type Schemas } from '@/api/client'
import { queryClient, sheetQuery, shotsQuery } from '@/api/queries'
import { useFaster } from '@/asking/useFaster'
import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { pathOf, type Turns } from './useTurns'

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

/** What is spotted on the chosen picture, and the changes one can make to it. */
export function useSheet(pictureId: Ref<number | undefined>, turns: Turns) {
  const { send } = useFaster()
  const enabled = computed(() => pictureId.value !== undefined)
  const sheet = useQuery(computed(() => ({ ...sheetQuery(pictureId.value ?? 0), enabled: enabled.value })))
  const shots = useQuery(computed(() => ({ ...shotsQuery(pictureId.value ?? 0), enabled: enabled.value })))

  /** Returns the sheet with it, or nothing if it was refused. */
  function edit(body: SheetEdit): Promise<Sheet | undefined> {
    const id = pictureId.value
    if (id === undefined) return Promise.resolve(undefined)
    return turns.keep(async () => {
      const made = await send(`sheet ${id}`, 'revision' in body ? body.revision : null, (revision) => {
        const sent = 'revision' in body ? { ...body, revision } : body
        return answer(api.POST('/api/pictures/{picture_id}/edits', { ...pathOf(id), body: sent }))
      })
      if (!made) return undefined
      queryClient.setQueryData(sheetQuery(id).queryKey, made)
      if (body.edit.endsWith('cuts') || body.edit === 'cut' || body.edit === 'join')
        await queryClient.invalidateQueries({ queryKey: shotsQuery(id).queryKey })
      void askAgain('production')
      return made
    })
  }

  /** What was meant by a typed position, in frames; nothing if it cannot be read. */
  function position(text: string, hereFrames: number): Promise<number | undefined> {
    return turns.keep(async () => {
      const query = { text, here_frames: hereFrames }
      const params = { path: { picture_id: pictureId.value! }, query }
      return (await answer(api.GET('/api/pictures/{picture_id}/position', { params }))).frames
    })
  }

  return { settled: turns.settled, sheet: sheet.data, shots: shots.data, edit, position }
}
