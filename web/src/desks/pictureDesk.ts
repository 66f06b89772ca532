import { computed, ref, watch } from 'vue'
import type { Session } from './session'
import { useDialogue } from './useDialogue'
import { useInOut } from './useInOut'
import { useLists } from './useLists'
import { usePictures } from './usePictures'
import { useSheet } from './useSheet'
import { useSlots } from './useSlots'
import { useTurns } from './useTurns'
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
  const shownId = computed(() => picture.value?.id)
  const show = (id: number) => (pictureId.value = id)
  const turns = useTurns(message)
  const lists = useLists(shownId, message, show)
  return {
    pictureId,
    pictures,
    picture,
    change: usePictures(productionId, turns),
    spotting: useSheet(shownId, turns),
    slots: useSlots(shownId, turns),
    lists,
    findDialogue: useDialogue(shownId, turns, message),
    inOut: useInOut(picture),
    uploads: useUploads(() => productionId.value, { film: show, marks: lists.importMarks }),
  }
}
