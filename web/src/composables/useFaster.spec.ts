import { ApiError } from '@/api/client'
import { describe, expect, it, vi } from 'vitest'
import { useFaster } from './useFaster'

const stale = () => new ApiError('stale', 'it is now A; you asked for B')

describe('two people at one thing', () => {
  it('sends the revision that was looked at, and nothing is asked while nobody was faster', async () => {
    const { faster, send } = useFaster()
    const call = vi.fn(async (revision: number | null) => `kept at ${revision}`)
    expect(await send(4, call)).toBe('kept at 4')
    expect(await send(undefined, call)).toBe('kept at null')
    expect(faster.value).toBeNull()
  })
  it('shows both versions, and either stays', async () => {
    const { faster, send } = useFaster()
    const call = vi.fn(async (revision: number | null) => {
      if (revision !== null) throw stale()
      return 'mine'
    })
    expect(await send(4, call)).toBeUndefined()
    expect(faster.value!.words).toBe('it is now A; you asked for B')
    expect(call).toHaveBeenCalledTimes(1)
    await faster.value!.useMine()
    expect(call).toHaveBeenLastCalledWith(null)
    expect(faster.value).toBeNull()
  })
  it('lets every other refusal through', async () => {
    const { faster, send } = useFaster()
    await expect(send(1, () => Promise.reject(new ApiError('not_found', 'gone')))).rejects.toThrow('gone')
    expect(faster.value).toBeNull()
  })
})
