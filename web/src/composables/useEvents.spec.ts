import { queryClient } from '@/api/queries'
import type { InvalidateQueryFilters } from '@tanstack/vue-query'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { useEvents } from './useEvents'

function set() {
  const source = { close: vi.fn() } as unknown as EventSource
  const scope = effectScope()
  const events = scope.run(() => useEvents(() => source))!
  const invalidated = vi.spyOn(queryClient, 'invalidateQueries').mockResolvedValue()
  const say = (event: object) => {
    invalidated.mockClear()
    source.onmessage!(new MessageEvent('message', { data: JSON.stringify(event) }))
    return invalidated.mock.calls.map(([filter]) => (filter as InvalidateQueryFilters).queryKey?.[0])
  }
  return { source, scope, events, invalidated, say }
}

describe('events of the server', () => {
  afterEach(() => vi.restoreAllMocks())

  it('make the queries ask again that show what changed', () => {
    const { say } = set()
    expect(say({ kind: 'production' })).toEqual(['production'])
    expect(say({ kind: 'picture' })).toEqual(['sheet', 'fit'])
    expect(say({ kind: 'tracks' }).sort()).toEqual(['production', 'tracks'])
    expect(say({ kind: 'fit' })).toEqual(['fit'])
    expect(say({ kind: 'job', state: 'done' })).toContain('fit')
    expect(say({ kind: 'job', state: 'running' })).not.toContain('fit')
    expect(say({ kind: 'hello' })).toEqual([])
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
