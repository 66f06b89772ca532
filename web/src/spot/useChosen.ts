import { usePictureDesk, useCueDesk } from '@/desks/workbench'
import { ref, watch } from 'vue'
import type { FrameSteps } from './useFrameSteps'

export type Tab = 'hits' | 'lines' | 'cue' | 'tempo' | 'carried'
export type Chosen = ReturnType<typeof useChosen>

/** What is chosen on the picture: hits, a line or a cue; and the table that shows it. */
export function useChosen({ goTo, showIfParked }: FrameSteps) {
  const { picture, spotting } = usePictureDesk()
  const { sheet } = spotting
  const cueDesk = useCueDesk()
  const tab = ref<Tab>('hits')
  const hitIds = ref<ReadonlySet<number>>(new Set())
  const lineId = ref<number | null>(null)
  const cueId = ref<number | null>(null)

  watch(
    () => picture.value?.id,
    () => {
      none()
      cueId.value = null
      tab.value = 'hits'
    },
  )
  watch(sheet, (now) => {
    if (tab.value === 'carried' && !now?.carried) tab.value = 'hits'
  })

  /** A hit alone, or with those that are chosen already: then it is taken out again if it was. */
  function hit(id: number, more = false): void {
    const next = new Set(more ? hitIds.value : [])
    if (more && next.has(id)) next.delete(id)
    else next.add(id)
    hitIds.value = next
    lineId.value = null
    const found = sheet.value?.hits.find((h) => h.id === id)
    if (found && !more) showIfParked(found.at_frames)
    tab.value = 'hits'
  }
  function line(id: number): void {
    if (lineId.value === id) return
    lineId.value = id
    hitIds.value = new Set()
    const found = sheet.value?.lines.find((x) => x.id === id)
    if (found) showIfParked(found.start_frames)
    tab.value = 'lines'
  }
  function cue(id: number): void {
    cueId.value = cueDesk.cueId.value = id
    none()
    tab.value = 'cue'
  }
  function none(): void {
    hitIds.value = new Set()
    lineId.value = null
  }
  return { tab, hitIds, lineId, cueId, hit, line, cue, none, goTo }
}
