/** The tempo map of the picture: laid on it, read from a file, taken along and taken away; one step of undo each. */
import { answer, api, sendFile, type Schemas, type Tempo } from '@/api/client'
import { queryClient, tempoMapQuery } from '@/api/queries'
import { download } from '@/app/download'
import { usePictureDesk, useSession } from '@/app/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

/** `isSeen`: whether anybody looks at it, so that it is asked for. */
export function useTempoMap(isSeen: () => boolean) {
  const { picture } = usePictureDesk()
  const session = useSession()
  const id = computed(() => picture.value?.id ?? 0)
  const query = useQuery(computed(() => ({ ...tempoMapQuery(id.value), enabled: id.value > 0 && isSeen() })))
  const map = computed(() => query.data.value ?? null)
  const at = () => ({ params: { path: { picture_id: id.value } } })

  /** Do something to it, and have what is drawn follow. */
  async function change(work: () => Promise<unknown>): Promise<void> {
    await session.attempt(work)
    for (const key of ['sheet', 'production']) await queryClient.invalidateQueries({ queryKey: [key] })
  }
  /** What it is, in words. */
  const words = computed(() => {
    const m = map.value
    if (!m?.bpm.length) return ''
    const [slowest, fastest] = [Math.min(...m.bpm), Math.max(...m.bpm)]
    const range =
      fastest - slowest < 0.01 ? slowest.toFixed(2) : `${slowest.toFixed(2)} to ${fastest.toFixed(2)}`
    const met = m.hits.filter((h) => h.is_met).length
    const hits = m.hits.length ? `, ${met} of ${m.hits.length} hits met` : ''
    return `${range} bpm, ${m.beat_in_bar.filter((beat) => beat === 0).length} bars${hits}`
  })
  return {
    map,
    words,
    lay: (tempo: Tempo, meter: number) => {
      const body: Schemas['SteadyLaid'] = { bpm: tempo.bpm, meter, starts_s: tempo.starts_s }
      return change(() => answer(api.PUT('/api/pictures/{picture_id}/tempo-map', { ...at(), body })))
    },
    read: (file: File) => change(() => sendFile(`/api/pictures/${id.value}/tempo-map`, file)),
    remove: () => change(() => answer(api.DELETE('/api/pictures/{picture_id}/tempo-map', at()))),
    save: (form: string) => download(`/api/pictures/${id.value}/tempo-map/file?form=${form}`),
  }
}
