import type { Job } from '@/api/client'
import { queryClient } from '@/api/queries'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { mockServer, onPage } from '@/api/server.mock'
import { useFollowedJob } from './useFollowedJob'

const job = (state: Job['state'], more: Partial<Job> = {}) => ({ id: 7, state, error: null, ...more }) as Job
let now: Job = job('waiting')
const again = async () => {
  await queryClient.invalidateQueries({ queryKey: ['job'] })
  await flushPromises()
}

describe('a job that is followed', () => {
  afterEach(() => {
    vi.unstubAllGlobals()
    queryClient.clear()
  })

  it('is told to the page while it runs, and its end once', async () => {
    now = job('running', { progress: 0.5 })
    mockServer(() => ({ json: now }))
    const onEnd = vi.fn()
    const { running, follow, leave } = onPage(() => useFollowedJob(onEnd))
    expect(running.value).toBeNull()
    follow(7)
    await flushPromises()
    expect(running.value!.progress).toBe(0.5)
    now = job('done', { told: '3 lines' })
    await again()
    expect(onEnd).toHaveBeenCalledTimes(1)
    expect(onEnd.mock.calls[0]![0]).toMatchObject({ state: 'done', told: '3 lines' })
    expect(running.value).toBeNull()
    await again()
    expect(onEnd).toHaveBeenCalledTimes(1)
    leave()
  })
  it('is stopped on request', async () => {
    now = job('running')
    const asked = mockServer(() => ({ json: now }))
    const { running, follow, cancel, leave } = onPage(() => useFollowedJob(vi.fn()))
    await cancel()
    expect(asked).toEqual([])
    follow(7)
    await flushPromises()
    await cancel()
    expect(asked.at(-1)).toMatchObject({ method: 'POST', path: '/api/jobs/7/cancel' })
    expect(running.value).toBeNull()
    leave()
  })
})
