import type { Job } from '@/api/client'
import { queryClient } from '@/api/queries'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { mockServer, onPage } from '@/api/server.mock'
import { useRender } from './useRender'

const job = (state: Job['state'], more: Partial<Job> = {}) => ({ id: 7, state, error: null, ...more }) as Job
let now: Job = job('waiting')
const again = async () => {
  await queryClient.invalidateQueries({ queryKey: ['job'] })
  await flushPromises()
}

describe('a fit that is saved', () => {
  afterEach(() => {
    vi.unstubAllGlobals()
    queryClient.clear()
  })

  it('becomes a file that is fetched, or a reason', async () => {
    now = job('running')
    mockServer(() => ({ json: now }))
    const download = vi.fn()
    const { save, failure, leave } = onPage(() => useRender(download))
    await save(3, 'int24')
    await flushPromises()
    now = job('done')
    await again()
    expect(download).toHaveBeenCalledWith('/api/jobs/7/file')
    queryClient.clear()
    now = job('running')
    await save(3, 'int24')
    await flushPromises()
    now = job('failed', { error: 'The disk is full.' })
    await again()
    expect(failure.value).toBe('The disk is full.')
    expect(download).toHaveBeenCalledTimes(1)
    leave()
  })
})
