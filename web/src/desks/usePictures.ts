import { answer, api, sendFile, type Picture, type Schemas } from '@/api/client'
import { useFaster } from '@/asking/useFaster'
import type { Ref } from 'vue'
import { askAboutPicture, pathOf, type Turns } from './useTurns'

/** The pictures of the production: added, changed, looked through again, taken away. */
export function usePictures(productionId: Ref<number | undefined>, turns: Turns) {
  const { send } = useFaster()

  async function addBlank(body: Schemas['BlankPicture']): Promise<Picture> {
    const params = { path: { production_id: productionId.value! } }
    const made = await answer(api.POST('/api/productions/{production_id}/pictures/blank', { params, body }))
    await askAboutPicture()
    return made
  }

  async function addFromList(file: File, rate: string): Promise<Picture> {
    const address = `/api/productions/${productionId.value}/pictures/list`
    const made = await sendFile<Picture>(address, file, { rate })
    await askAboutPicture()
    return made
  }

  const scanAgain = (id: number) =>
    turns.change(() => answer(api.POST('/api/pictures/{picture_id}/scan', pathOf(id))))

  const update = (id: number, body: Schemas['PictureUpdate']) =>
    turns.change(() =>
      send(`picture ${id}`, body.revision, (revision) =>
        answer(api.PATCH('/api/pictures/{picture_id}', { ...pathOf(id), body: { ...body, revision } })),
      ),
    )

  const remove = (id: number) =>
    turns.change(() => answer(api.DELETE('/api/pictures/{picture_id}', pathOf(id))))

  return { addBlank, addFromList, scanAgain, update, remove }
}
