import { askAgain } from '@/api/again'
import { licensePiece, toApiError, UNREACHABLE, type Cue, type Piece } from '@/api/client'
import { catalogueQuery, queryClient } from '@/api/queries'
import { useQuery } from '@tanstack/vue-query'
import { computed, onScopeDispose, readonly, ref } from 'vue'

/** A piece on its way into the library, or why it did not get there. */
export interface Coming {
  progress: number
  startedAtMs: number
  failure: string
}

/** The music catalogue: what a search finds, hearing a preview, and licensing a piece. */
export function useCatalogue(
  productionId: () => number | undefined,
  cue: () => Cue | undefined,
  isOpen: () => boolean,
) {
  const words = ref('')
  const coming = ref(new Map<string, Coming>())
  const stops = new Map<string, AbortController>()
  const query = useQuery(computed(() => ({ ...catalogueQuery(words.value, cue()), enabled: isOpen() })))

  async function license(piece: Piece, use: string): Promise<void> {
    const stop = new AbortController()
    stops.set(piece.id, stop)
    coming.value.set(piece.id, { progress: 0, startedAtMs: performance.now(), failure: '' })
    const mine = coming.value.get(piece.id)!
    try {
      for await (const step of licensePiece(productionId()!, piece.id, use, stop.signal)) {
        if (step.problem) throw toApiError(step.problem, step.problem.status)
        mine.progress = step.progress ?? 1
      }
      await askAgain('tracks')
      coming.value.delete(piece.id)
    } catch (error) {
      if (stop.signal.aborted) coming.value.delete(piece.id)
      else mine.failure = (error as Error).message
    } finally {
      stops.delete(piece.id)
    }
  }

  return {
    words,
    pieces: query.data,
    failure: computed(() => query.error.value?.message ?? ''),
    isAsking: query.isFetching,
    ask: () => query.refetch(),
    stopAsking: () => queryClient.cancelQueries({ queryKey: ['catalogue'] }),
    coming,
    license,
    stop: (id: string) => stops.get(id)?.abort(),
  }
}

/** Hearing a piece of the catalogue before it is licensed: one at a time. */
export function usePreview() {
  const playing = ref('')
  const failure = ref('')
  let context: AudioContext | null = null
  let source: AudioBufferSourceNode | null = null

  function stop(): void {
    playing.value = ''
    if (source) source.onended = null
    source?.stop()
    source = null
  }

  async function toggle(id: string): Promise<void> {
    const wasOn = playing.value === id
    stop()
    failure.value = ''
    if (wasOn) return
    playing.value = id
    try {
      context ??= new AudioContext()
      const response = await fetch(`/api/catalogue/${id}/preview`)
      if (!response.ok) throw toApiError(await response.json().catch(() => undefined), response.status)
      const sound = await context.decodeAudioData(await response.arrayBuffer())
      if (playing.value !== id) return // another was wanted meanwhile
      source = new AudioBufferSourceNode(context, { buffer: sound })
      source.onended = stop
      source.connect(context.destination)
      source.start()
    } catch (error) {
      stop()
      failure.value = error instanceof TypeError ? UNREACHABLE : (error as Error).message
    }
  }

  onScopeDispose(() => {
    stop()
    void context?.close()
  })
  return { playing: readonly(playing), failure: readonly(failure), toggle, stop }
}
