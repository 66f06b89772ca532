import { answer, api, type Schemas } from '@/api/client'
import { productionQuery, productionsQuery, queryClient, refusalsQuery, tracksQuery } from '@/api/queries'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useFaster } from './useFaster'

const message = ref('')
const PICTURE_KEY = 'picture'
const PRODUCTION_KEY = 'production'
const { send } = useFaster()

/** The production on screen, its cue and tracks, and the changes one can make to them. */
export function useSession() {
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
  const pictureId = ref(Number(localStorage.getItem(PICTURE_KEY)) || null)
  const cueId = ref<number | null>(null)
  const pictures = computed(() => production.data.value?.pictures ?? [])
  /** The one chosen, or the first while that is not there. */
  const picture = computed(() => pictures.value.find((p) => p.id === pictureId.value) ?? pictures.value[0])
  const cues = computed(() =>
    (production.data.value?.cues ?? [])
      .filter((c) => c.picture_id === picture.value?.id)
      .sort((a, b) => a.slot_start_frames - b.slot_start_frames || a.id - b.id),
  )
  const cue = computed(() => cues.value.find((c) => c.id === cueId.value) ?? cues.value[0])
  watch(pictureId, (id) => localStorage.setItem(PICTURE_KEY, String(id ?? '')))
  const track = computed(() => tracks.data.value?.find((t) => t.id === cue.value?.track_id))

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

  let last: Promise<unknown> = Promise.resolve()
  /** Change the cue, one change after the other: each is of what the one before made. Returns a refusal in words. */
  function updateCue(change: Schemas['CueUpdate']): Promise<string | null> {
    const next = last.then(() => changeCue(change))
    last = next
    return next
  }

  async function changeCue(change: Schemas['CueUpdate']): Promise<string | null> {
    if (!cue.value) return 'There is no cue on this picture yet. Mark a slot for one on Spot.'
    try {
      const params = { path: { cue_id: cue.value.id } }
      const updated = await send(
        `cue ${params.path.cue_id}`,
        change.revision ?? cue.value.revision,
        (revision) => answer(api.PATCH('/api/cues/{cue_id}', { params, body: { ...change, revision } })),
      )
      if (!updated) return null
      queryClient.setQueryData(productionQuery(productionId.value!).queryKey, (old) =>
        old ? { ...old, cues: old.cues.map((c) => (c.id === updated.id ? updated : c)) } : old,
      )
      await queryClient.invalidateQueries({ queryKey: ['production'] })
      return null
    } catch (error) {
      return (error as Error).message
    }
  }

  /** Fit the cue from chart and hits as they are now. */
  async function fitAgain(): Promise<void> {
    const path = { params: { path: { cue_id: cue.value!.id } } }
    await attempt(() => answer(api.POST('/api/cues/{cue_id}/fit', path)))
    await queryClient.invalidateQueries({ queryKey: ['fit'] })
  }

  async function step(which: 'undo' | 'redo'): Promise<void> {
    const path = { params: { path: { production_id: productionId.value! } } }
    await attempt(async () => {
      const call =
        which === 'undo'
          ? api.POST('/api/productions/{production_id}/undo', path)
          : api.POST('/api/productions/{production_id}/redo', path)
      queryClient.setQueryData(productionQuery(productionId.value!).queryKey, await answer(call))
      await queryClient.invalidateQueries({ queryKey: ['tracks'] })
      await queryClient.invalidateQueries({ queryKey: ['sheet'] })
      await queryClient.invalidateQueries({ queryKey: ['fit'] })
    })
  }

  const forTrack = (trackId: number) => ({ params: { path: { track_id: trackId } } })

  async function deleteTrack(trackId: number): Promise<void> {
    await attempt(() => answer(api.DELETE('/api/tracks/{track_id}', forTrack(trackId))))
    await queryClient.invalidateQueries({ queryKey: ['tracks'] })
    await queryClient.invalidateQueries({ queryKey: ['production'] })
  }

  async function updateTrack(trackId: number, body: Schemas['TrackUpdate']): Promise<void> {
    await attempt(() =>
      send(`track ${trackId}`, body.revision, (revision) =>
        answer(api.PATCH('/api/tracks/{track_id}', { ...forTrack(trackId), body: { ...body, revision } })),
      ),
    )
    await queryClient.invalidateQueries({ queryKey: ['tracks'] })
    await queryClient.invalidateQueries({ queryKey: ['production'] })
  }

  async function listenAgain(trackId: number): Promise<void> {
    await attempt(() => answer(api.POST('/api/tracks/{track_id}/listen', forTrack(trackId))))
    await queryClient.invalidateQueries({ queryKey: ['tracks'] })
  }

  async function putAway(refusalId: number): Promise<void> {
    const path = { params: { path: { refusal_id: refusalId } } }
    await attempt(() => answer(api.DELETE('/api/refusals/{refusal_id}', path)))
    await queryClient.invalidateQueries({ queryKey: ['tracks'] })
  }

  async function cancelJob(jobId: number): Promise<void> {
    await attempt(() =>
      answer(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: jobId } } })),
    )
    await queryClient.invalidateQueries({ queryKey: ['tracks'] })
  }

  async function changedList<T>(work: () => Promise<T>): Promise<T | undefined> {
    let made: T | undefined
    await attempt(async () => (made = await work()))
    await queryClient.invalidateQueries({ queryKey: ['productions'] })
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
    await queryClient.invalidateQueries({ queryKey: ['production'] })
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
    pictures,
    pictureId,
    cues,
    cueId,
    cue,
    picture,
    attempt,
    track,
    failure,
    message,
    updateCue,
    fitAgain,
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
