import type { Job, Production, Track } from '@/api/client'
import { queryClient } from '@/api/queries'
import { onScopeDispose, readonly, ref } from 'vue'

interface ServerEvent {
  kind: string
  state?: string
}
interface JobEvent extends ServerEvent {
  job_id: number
}
interface ProgressEvent extends JobEvent {
  progress: number
  stage: string
}
type WithJob = { job: Job | null }

/** A tick of progress is written where the job is shown; nothing is asked again for it. */
function note({ job_id, progress, stage }: ProgressEvent): void {
  const told = (job: Job | null): Job | null => {
    if (job?.id !== job_id || job.progress > progress) return job
    return { ...job, state: 'running', progress, stage, elapsed_s: elapsedOf(job) }
  }
  const all = <T extends WithJob>(things: T[]) =>
    things.some((thing) => thing.job?.id === job_id)
      ? things.map((thing) => ({ ...thing, job: told(thing.job) }))
      : things
  queryClient.setQueriesData<Track[]>(
    { queryKey: ['tracks'], predicate: ({ queryKey }) => queryKey.length === 2 },
    (old) => old && all(old),
  )
  queryClient.setQueriesData<Production>(
    { queryKey: ['production'] },
    (old) => old && { ...old, pictures: all(old.pictures) },
  )
  queryClient.setQueryData<Job>(['job', job_id], (old) => old && (told(old) ?? old))
}

/** For how long a job has run, by when it was first seen to run. */
const begun = new Map<number, number>()
function elapsedOf(job: Job): number {
  const now = performance.now() / 1000
  if (!begun.has(job.id)) begun.set(job.id, now - job.elapsed_s)
  return now - begun.get(job.id)!
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
      begun.delete((event as JobEvent).job_id)
      void queryClient.invalidateQueries({ queryKey: ['tracks'] })
      void queryClient.invalidateQueries({ queryKey: ['job'] })
      if (event.state === 'done') void queryClient.invalidateQueries({ queryKey: ['fit'] })
    }
    if (event.kind === 'progress') note(event as ProgressEvent)
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
