import { queryClient } from './queries'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { askAgain } from './again'

describe('what is asked again', () => {
  beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout'] }))
  afterEach(() => {
    vi.restoreAllMocks()
    vi.useRealTimers()
  })

  it('is asked once, whoever wants it within a moment, and anew after it', async () => {
    const asked = vi.spyOn(queryClient, 'invalidateQueries').mockResolvedValue()
    const change = askAgain('production')
    await vi.advanceTimersByTimeAsync(10)
    const event = askAgain('production', 'fit')
    await vi.advanceTimersByTimeAsync(30)
    await Promise.all([change, event])
    expect(asked.mock.calls).toEqual([[{ queryKey: ['production'] }], [{ queryKey: ['fit'] }]])
    void askAgain('production')
    await vi.advanceTimersByTimeAsync(30)
    expect(asked).toHaveBeenCalledTimes(3)
  })
})
