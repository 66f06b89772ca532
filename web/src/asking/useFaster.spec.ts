import { ApiError } from '@/api/client'
import { describe, expect, it, vi } from 'vitest'
import { useFaster } from './useFaster'

const stale = () => new ApiError('stale', 'Now: A. Yours: B.')

describe('two people at one thing', () => {
  it('sends the revision that was looked at, and nothing is asked while nobody was faster', async () => {
    const { faster, send } = useFaster()
    const call = vi.fn(async (revision: number | null) => ({ revision: (revision ?? 10) + 2 }))
    expect(await send('cue 1', 4, call)).toEqual({ revision: 6 })
    expect(await send('cue 1', undefined, call)).toEqual({ revision: 12 })
    expect(faster.value).toBeNull()
  })
  it('does not take a change made here for one of somebody else', async () => {
    const { send } = useFaster()
    const call = vi.fn(async (revision: number | null) => ({ revision: revision! + 1 }))
    await send('cue 2', 4, call)
    await send('cue 2', 4, call) // looked at before the first answer came
    await send('cue 2', 5, call)
    await send('cue 3', 4, call)
    expect(call.mock.calls.map(([revision]) => revision)).toEqual([4, 5, 6, 4])
    const amid = vi.fn(async () => ({ revision: 9 })) // somebody else was here in between
    await send('cue 3', 5, amid)
    await send('cue 3', 5, amid)
    expect(amid).toHaveBeenLastCalledWith(5)
  })
  it('shows both versions, and either stays', async () => {
    const { faster, send } = useFaster()
    const call = vi.fn(async (revision: number | null) => {
      if (revision !== null) throw stale()
      return { revision: 8 }
    })
    expect(await send('cue 4', 4, call)).toBeUndefined()
    expect(faster.value!.words).toBe('Now: A. Yours: B.')
    expect(call).toHaveBeenCalledTimes(1)
    await faster.value!.useMine()
    expect(call).toHaveBeenLastCalledWith(null)
    expect(faster.value).toBeNull()
  })
  it('lets every other refusal through', async () => {
    const { faster, send } = useFaster()
    const gone = () => Promise.reject(new ApiError('not_found', 'gone'))
    await expect(send('cue 5', 1, gone)).rejects.toThrow('gone')
    expect(faster.value).toBeNull()
  })
})
