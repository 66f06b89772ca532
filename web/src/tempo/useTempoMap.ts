import { askAgain } from '@/api/again'
/** The tempo map of the picture: laid on it, changed, read from a file, taken along and taken away; one step of undo each. */
import { answer, api, sendFile, type MapEdit, type Schemas, type Tempo, type TempoMap } from '@/api/client'
import { tempoMapQuery } from '@/api/queries'
import { download } from '@/asking/download'
import { rangeOf } from '@/drawing/tempoLane'
import { useLatest } from '@/asking/useLatest'
import { usePictureDesk, useSession } from '@/desks/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed, shallowRef } from 'vue'

/** `isSeen`: whether anybody looks at it, so that it is asked for. */
export function useTempoMap(isSeen: () => boolean) {
  const { picture } = usePictureDesk()
  const session = useSession()
  const id = computed(() => picture.value?.id ?? 0)
  const query = useQuery(computed(() => ({ ...tempoMapQuery(id.value), enabled: id.value > 0 && isSeen() })))
  const kept = computed(() => query.data.value ?? null)
  /** The map as a change would have it while a hand is on it, or why there is none. */
  const tried = shallowRef<{ map: TempoMap | null; problem: string } | null>(null)
  const map = computed(() => tried.value?.map ?? kept.value)
  const at = () => ({ params: { path: { picture_id: id.value } } })

  const latest = useLatest(
    (body: MapEdit) => answer(api.POST('/api/pictures/{picture_id}/tempo-map/try', { ...at(), body })),
    (found) => (tried.value = { map: found, problem: '' }),
    (error) => (tried.value = { map: tried.value?.map ?? null, problem: error.message }),
  )
  function endTry(): void {
    latest.end()
    tried.value = null
  }

  /** Do something to it, and have what is drawn follow. */
  async function change(work: () => Promise<unknown>): Promise<void> {
    await session.attempt(work)
    await askAgain('sheet', 'production')
  }
  /** What was tried is seen until the map is there that was asked for. */
  async function edit(body: MapEdit): Promise<void> {
    latest.end()
    await change(() => answer(api.POST('/api/pictures/{picture_id}/tempo-map/edits', { ...at(), body })))
    endTry()
  }
  /** What it is, in words. */
  const words = computed(() => {
    const m = map.value
    if (!m?.bpm.length) return ''
    const [slowest, fastest] = rangeOf(m.bpm)
    const range =
      fastest - slowest < 0.01 ? slowest.toFixed(2) : `${slowest.toFixed(2)} to ${fastest.toFixed(2)}`
    const met = m.hits.filter((h) => h.is_met).length
    const hits = m.hits.length ? `, ${met} of ${m.hits.length} hits met` : ''
    return `${range} bpm, ${m.beat_in_bar.filter((beat) => beat === 0).length} bars${hits}`
  })
  return {
    map,
    words,
    edit,
    problem: computed(() => tried.value?.problem ?? ''),
    isTrying: computed(() => tried.value !== null),
    tryEdit: latest.want,
    endTry,
    lay: ({ bpm, meter, starts_s }: Tempo) => {
      const body: Schemas['SteadyLaid'] = { bpm, meter, starts_s }
      return change(() => answer(api.PUT('/api/pictures/{picture_id}/tempo-map', { ...at(), body })))
    },
    read: (file: File) => change(() => sendFile(`/api/pictures/${id.value}/tempo-map`, file)),
    remove: () => change(() => answer(api.DELETE('/api/pictures/{picture_id}/tempo-map', at()))),
    save: (form: string, click: Record<string, string>) =>
      download(`/api/pictures/${id.value}/tempo-map/file?${new URLSearchParams({ form, ...click })}`),
  }
}
