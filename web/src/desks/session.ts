import { askAgain } from '@/api/again'
import { answer, api, type Schemas } from '@/api/client'
import { productionQuery, productionsQuery, queryClient, refusalsQuery, tracksQuery } from '@/api/queries'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useFaster } from '@/asking/useFaster'

const message = ref('')
const PRODUCTION_KEY = 'production'
const { send } = useFaster()

export type Session = ReturnType<typeof setUpSession>

/** The production on screen, its tracks, and the changes one can make to them. */
export function setUpSession() {
  const productions = useQuery(productionsQuery)
  const chosenId = ref(Number(localStorage.getItem(PRODUCTION_KEY)) || null)
  /** The one chosen, or the first of those that are not put away. */
  const productionId = computed(() => {
    const all = productions.data.value ?? []
    return (all.find((p) => p.id === chosenId.value) ?? all.find((p) => !p.is_put_away) ?? all[0])?.id
  })
  watch(chosenId, (id) => localStorage.setItem(PRODUCTION_KEY, String(id ?? '')))
  const enabled = computed(() => productionId.value !== undefined)
  const production = useQuery(
    computed(() => ({ ...productionQuery(productionId.value ?? 0), enabled: enabled.value })),
  )
  const tracks = useQuery(
    computed(() => ({ ...tracksQuery(productionId.value ?? 0), enabled: enabled.value })),
  )
  const refusals = useQuery(
    computed(() => ({ ...refusalsQuery(productionId.value ?? 0), enabled: enabled.value })),
  )

  /** Do something that the server may refuse; what it says is shown. Returns whether it was done. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    try {
      await work()
      return true
    } catch (error) {
      message.value = (error as Error).message
      return false
    }
  }

  async function step(which: 'undo' | 'redo'): Promise<void> {
    const path = { params: { path: { production_id: productionId.value! } } }
    await attempt(async () => {
      const call =
        which === 'undo'
          ? api.POST('/api/productions/{production_id}/undo', path)
          : api.POST('/api/productions/{production_id}/redo', path)
      queryClient.setQueryData(productionQuery(productionId.value!).queryKey, await answer(call))
      await askAgain('tracks', 'sheet', 'fit')
    })
  }

  const forTrack = (trackId: number) => ({ params: { path: { track_id: trackId } } })

  async function deleteTrack(trackId: number): Promise<void> {
    await attempt(() => answer(api.DELETE('/api/tracks/{track_id}', forTrack(trackId))))
    await askAgain('tracks', 'production')
  }

  async function updateTrack(trackId: number, body: Schemas['TrackUpdate']): Promise<void> {
    await attempt(() =>
      send(`track ${trackId}`, body.revision, (revision) =>
        answer(api.PATCH('/api/tracks/{track_id}', { ...forTrack(trackId), body: { ...body, revision } })),
      ),
    )
    await askAgain('tracks', 'production')
  }

  async function listenAgain(trackId: number): Promise<void> {
    await attempt(() => answer(api.POST('/api/tracks/{track_id}/listen', forTrack(trackId))))
    await askAgain('tracks')
  }

  async function putAway(refusalId: number): Promise<void> {
    const path = { params: { path: { refusal_id: refusalId } } }
    await attempt(() => answer(api.DELETE('/api/refusals/{refusal_id}', path)))
    await askAgain('tracks')
  }

  async function cancelJob(jobId: number): Promise<void> {
    await attempt(() =>
      answer(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: jobId } } })),
    )
    await askAgain('tracks')
  }

  async function changedList<T>(work: () => Promise<T>): Promise<T | undefined> {
    let made: T | undefined
    await attempt(async () => (made = await work()))
    await askAgain('productions')
    return made
  }

  /** Open a production: what is on screen is its pictures, cues and tracks. */
  function openProduction(id: number): void {
    chosenId.value = id
  }

  async function addProduction(name: string): Promise<void> {
    const made = await changedList(() => answer(api.POST('/api/productions', { body: { name } })))
    if (made) openProduction(made.id)
  }

  async function updateProduction(id: number, body: Schemas['ProductionUpdate']): Promise<void> {
    const params = { path: { production_id: id } }
    await changedList(() => answer(api.PATCH('/api/productions/{production_id}', { params, body })))
    if (body.is_put_away && chosenId.value === id) chosenId.value = null
    await askAgain('production')
  }

  const failure = computed(() => (productions.error.value ?? production.error.value)?.message ?? '')
  return {
    productionId,
    productions: productions.data,
    openProduction,
    addProduction,
    updateProduction,
    production: production.data,
    tracks: tracks.data,
    refusals: refusals.data,
    tracksFailure: tracks.error,
    attempt,
    failure,
    message,
    deleteTrack,
    listenAgain,
    updateTrack,
    putAway,
    cancelJob,
    undo: () => step('undo'),
    redo: () => step('redo'),
    reload: () => queryClient.invalidateQueries(),
  }
}
