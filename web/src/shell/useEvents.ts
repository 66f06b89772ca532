import { askAgain } from '@/api/again'
import type { Job, Production, Track } from '@/api/client'
import { queryClient, tracksQuery } from '@/api/queries'
import { onScopeDispose, readonly, ref } from 'vue'

interface ServerEvent {
  kind: string
  state?: string
  /** What a job is for: a track, a picture, a fit. */
  subject?: string
  job?: Job | null
  /** All tracks of the one recording that it is about, as they are now. */
  tracks_now?: Track[]
}
interface JobEvent extends ServerEvent {
  job_id: number
}
interface ProgressEvent extends JobEvent {
  progress: number
  stage: string
}
type WithJob = { job: Job | null }

/** Put tracks where they are listed. One that is gone, or a list that is just being asked for, is asked for (again). */
function takeTracks(tracks: Track[]): void {
  if (!tracks.length || queryClient.isFetching({ queryKey: ['tracks'] })) void askAgain('tracks')
  for (const track of tracks) {
    queryClient.setQueryData(tracksQuery(track.production_id).queryKey, (old) =>
      old?.some((t) => t.id === track.id)
        ? old.map((t) => (t.id === track.id ? track : t))
        : old && [track, ...old],
    )
  }
}

/** A job as it is now; what it made is asked for. */
function takeJob({ job_id, job, state, subject, tracks_now }: JobEvent): void {
  begun.delete(job_id)
  if (job) queryClient.setQueryData<Job>(['job', job_id], (old) => old && job)
  else void queryClient.invalidateQueries({ queryKey: ['job', job_id] })
  if (subject === 'track') takeTracks(tracks_now ?? [])
  else void askAgain('production')
  if (state === 'done') void askAgain('fit')
}

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
    if (event.kind === 'job') takeJob(event as JobEvent)
    if (event.kind === 'progress') note(event as ProgressEvent)
    if (event.kind === 'picture') void askAgain('sheet')
    // Cues are fitted to the hits in their slots.
    if (event.kind === 'picture') void askAgain('fit')
    if (event.kind === 'productions') void askAgain('productions')
    if (event.kind === 'fit') void askAgain('fit')
    // It may be playing: what changed is to be heard at once.
    if (event.kind === 'programme') void queryClient.invalidateQueries({ queryKey: ['programme'] })
    if (event.kind === 'tracks') takeTracks(event.tracks_now ?? [])
    if (event.kind === 'production' || event.kind === 'tracks') {
      void askAgain('production')
    }
  }
  onScopeDispose(() => source.close())
  return { isConnected: readonly(isConnected) }
}
