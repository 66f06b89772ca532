import { useInOut } from './useInOut'
import { useSheet } from './useSheet'
import { computed, ref, watch } from 'vue'
import type { Session } from './session'
import { useUploads } from './useUploads'

const PICTURE_KEY = 'picture'

export type PictureDesk = ReturnType<typeof setUpPictureDesk>

/** The picture on screen and what is spotted on it; and what is dropped, which goes where it belongs. */
export function setUpPictureDesk({ production, productionId, message }: Session) {
  const pictureId = ref(Number(localStorage.getItem(PICTURE_KEY)) || null)
  watch(pictureId, (id) => localStorage.setItem(PICTURE_KEY, String(id ?? '')))
  const pictures = computed(() => production.value?.pictures ?? [])
  /** The one chosen, or the first while that is not there. */
  const picture = computed(() => pictures.value.find((p) => p.id === pictureId.value) ?? pictures.value[0])
  const show = (id: number) => (pictureId.value = id)
  const spotting = useSheet(
    computed(() => picture.value?.id),
    productionId,
    message,
    show,
  )
  const uploads = useUploads(() => productionId.value, { film: show, marks: spotting.importMarks })
  return { pictureId, pictures, picture, spotting, inOut: useInOut(picture), uploads }
}
