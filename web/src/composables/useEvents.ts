import { queryClient } from '@/api/queries'
import { onScopeDispose, readonly, ref } from 'vue'

interface ServerEvent {
  kind: string
  state?: string
}

/** Keeps what is on screen current: the server says what changed, the queries that show it ask again. */
export function useEvents(open: (url: string) => EventSource = (url) => new EventSource(url)) {
  const isConnected = ref(false)
  const source = open('/api/events')
  source.onopen = () => {
    isConnected.value = true
    // What happened while we were not listening is not repeated.
    void queryClient.invalidateQueries({
      predicate: (q) => q.queryKey[0] !== 'peaks' && q.queryKey[0] !== 'chart',
    })
  }
  source.onerror = () => (isConnected.value = false)
  source.onmessage = (message: MessageEvent<string>) => {
    const event = JSON.parse(message.data) as ServerEvent
    if (event.kind === 'job') {
      void queryClient.invalidateQueries({ queryKey: ['tracks'] })
      void queryClient.invalidateQueries({ queryKey: ['job'] })
      if (event.state === 'done') void queryClient.invalidateQueries({ queryKey: ['fit'] })
    }
    if (event.kind === 'picture') void queryClient.invalidateQueries({ queryKey: ['sheet'] })
    // Cues are fitted to the hits in their slots.
    if (event.kind === 'picture') void queryClient.invalidateQueries({ queryKey: ['fit'] })
    if (event.kind === 'job') void queryClient.invalidateQueries({ queryKey: ['production'] })
    if (event.kind === 'productions') void queryClient.invalidateQueries({ queryKey: ['productions'] })
    if (event.kind === 'fit') void queryClient.invalidateQueries({ queryKey: ['fit'] })
    if (event.kind === 'tracks') void queryClient.invalidateQueries({ queryKey: ['tracks'] })
    if (event.kind === 'production' || event.kind === 'tracks') {
      void queryClient.invalidateQueries({ queryKey: ['production'] })
    }
  }
  onScopeDispose(() => source.close())
  return { isConnected: readonly(isConnected) }
}
