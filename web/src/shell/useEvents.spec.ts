import { queryClient } from '@/api/queries'
import type { InvalidateQueryFilters } from '@tanstack/vue-query'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { useEvents } from './useEvents'

function set() {
  const source = { close: vi.fn() } as unknown as EventSource
  const scope = effectScope()
  const events = scope.run(() => useEvents(() => source))!
  const invalidated = vi.spyOn(queryClient, 'invalidateQueries').mockResolvedValue()
  const say = async (...events: object[]) => {
    invalidated.mockClear()
    for (const event of events)
      source.onmessage!(new MessageEvent('message', { data: JSON.stringify(event) }))
    await vi.advanceTimersByTimeAsync(100)
    return invalidated.mock.calls.map(([filter]) => (filter as InvalidateQueryFilters).queryKey?.[0])
  }
  return { source, scope, events, invalidated, say }
}

describe('events of the server', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout'] }))
  afterEach(() => {
    vi.restoreAllMocks()
    vi.useRealTimers()
    queryClient.clear()
  })

  it('make the queries ask again that show what changed', async () => {
    const { say } = set()
    expect(await say({ kind: 'production' })).toEqual(['production'])
    expect(await say({ kind: 'picture' })).toEqual(['sheet', 'fit'])
    expect((await say({ kind: 'tracks' })).sort()).toEqual(['production', 'tracks'])
    expect(await say({ kind: 'fit' })).toEqual(['fit'])
    expect(await say({ kind: 'job', job_id: 1, subject: 'picture', state: 'done' })).toEqual([
      'job',
      'production',
      'fit',
    ])
    expect(await say({ kind: 'job', job_id: 1, subject: 'track', state: 'running' })).toEqual([
      'job',
      'tracks',
    ])
    expect(await say({ kind: 'hello' })).toEqual([])
    // A step of undo tells of all that it may have changed; each is asked for once.
    expect(await say({ kind: 'production' }, { kind: 'picture' }, { kind: 'production' })).toEqual([
      'production',
      'sheet',
      'fit',
    ])
  })
  it('carry the tracks of a recording as they are now, so that a library is not asked for again', async () => {
    const { say } = set()
    const [one, other, elsewhere] = [1, 2, 3].map((id) => ({ id, state: 'listening' }))
    queryClient.setQueryData(['tracks', 1], [other, one])
    queryClient.setQueryData(['tracks', 2], [elsewhere])
    queryClient.setQueryData(['job', 7], { id: 7, state: 'running' })
    const ready = (id: number, production_id: number) => ({ id, production_id, state: 'ready' })
    const event = {
      kind: 'job',
      job_id: 7,
      subject: 'track',
      state: 'done',
      job: { id: 7, state: 'done' },
      tracks_now: [ready(1, 1), ready(3, 2), ready(4, 9)],
    }
    expect(await say(event)).toEqual(['fit'])
    expect(queryClient.getQueryData(['tracks', 1])).toEqual([other, ready(1, 1)])
    expect(queryClient.getQueryData(['tracks', 2])).toEqual([ready(3, 2)])
    expect(queryClient.getQueryData(['tracks', 9])).toBeUndefined()
    expect(queryClient.getQueryData(['job', 7])).toEqual({ id: 7, state: 'done' })
    expect(await say({ kind: 'tracks', tracks_now: [ready(5, 1)] })).toEqual(['production'])
    expect(queryClient.getQueryData<object[]>(['tracks', 1])![0]).toEqual(ready(5, 1))
    expect(await say({ kind: 'tracks', tracks_now: [] })).toContain('tracks')
  })
  it('write progress where the job is shown, and ask for nothing again', async () => {
    const { say } = set()
    const job = { id: 7, state: 'waiting', progress: 0.2, stage: '', elapsed_s: 3 }
    const other = { id: 2, job: { ...job, id: 8 } }
    queryClient.setQueryData(['tracks', 1], [{ id: 1, job }, other])
    queryClient.setQueryData(['tracks', 1, 'refusals'], [{ id: 3 }])
    queryClient.setQueryData(['production', 1], { id: 1, pictures: [{ id: 4, job: null }] })
    queryClient.setQueryData(['job', 7], job)
    expect(await say({ kind: 'progress', job_id: 7, progress: 0.5, stage: 'Hearing beats' })).toEqual([])
    const tracks = queryClient.getQueryData<{ job: typeof job }[]>(['tracks', 1])!
    expect(tracks[0]!.job).toMatchObject({ state: 'running', progress: 0.5, stage: 'Hearing beats' })
    expect(tracks[0]!.job.elapsed_s).toBeGreaterThanOrEqual(3)
    expect(tracks[1]).toBe(other)
    expect(queryClient.getQueryData(['job', 7])).toMatchObject({ progress: 0.5 })
    await say({ kind: 'progress', job_id: 7, progress: 0.4, stage: 'late' })
    expect(queryClient.getQueryData(['job', 7])).toMatchObject({ progress: 0.5 })
  })
  it('that were missed are made up for when the connection is back, and it ends with the page', () => {
    const { source, scope, events, invalidated } = set()
    expect(events.isConnected.value).toBe(false)
    source.onopen!(new Event('open'))
    expect(events.isConnected.value).toBe(true)
    const { predicate } = invalidated.mock.calls[0]![0] as InvalidateQueryFilters
    const asksAgain = (key: string) => predicate!({ queryKey: [key] } as never)
    expect(['production', 'sheet', 'peaks'].map(asksAgain)).toEqual([true, true, false])
    source.onerror!(new Event('error'))
    expect(events.isConnected.value).toBe(false)
    scope.stop()
    expect(source.close).toHaveBeenCalled()
  })
})
