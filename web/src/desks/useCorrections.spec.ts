import { queryClient } from '@/api/queries'
import { mockServer, problem, type Asked } from '@/api/server.mock'
import type { InvalidateQueryFilters } from '@tanstack/vue-query'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { useCorrections } from './useCorrections'

describe('corrections', () => {
  const trackId = ref<number | null>(3)
  const message = ref('')
  let asked: Asked[]
  let answers: ((answer: { status?: number; json: unknown }) => void)[]
  beforeEach(() => {
    trackId.value = 3
    message.value = ''
    answers = []
    asked = mockServer(() => new Promise((resolve) => void answers.push(resolve)))
  })
  afterEach(() => {
    vi.restoreAllMocks()
    vi.unstubAllGlobals()
  })

  it('are sent one after the other, and the track is asked for again after each', async () => {
    const again = vi.spyOn(queryClient, 'invalidateQueries').mockResolvedValue()
    const { edit, drop } = useCorrections(trackId, message)
    const done = [edit({ kind: 'halve' }), edit({ kind: 'double' }), drop()]
    for (const n of [1, 2, 3]) {
      await vi.waitFor(() => expect(answers.length).toBe(n))
      answers[n - 1]!({ json: {} })
    }
    expect(await Promise.all(done)).toEqual([true, true, true])
    expect(asked.map((a) => [a.method, a.path])).toEqual([
      ['POST', '/api/tracks/3/corrections'],
      ['POST', '/api/tracks/3/corrections'],
      ['DELETE', '/api/tracks/3/corrections'],
    ])
    expect(again.mock.calls.map(([filter]) => (filter as InvalidateQueryFilters).queryKey?.[0])).toEqual([
      'tracks',
      'production',
      'tracks',
      'production',
      'tracks',
      'production',
    ])
  })

  it('that are refused say why, and do not stop those that follow', async () => {
    vi.spyOn(queryClient, 'invalidateQueries').mockResolvedValue()
    const { edit } = useCorrections(trackId, message)
    const [refused, kept] = [edit({ kind: 'halve' }), edit({ kind: 'double' })]
    await vi.waitFor(() => expect(answers.length).toBe(1))
    answers[0]!(problem(422, 'correction', 'Half of 40 bpm is slower than anything is counted.'))
    expect(await refused).toBe(false)
    expect(message.value).toBe('Half of 40 bpm is slower than anything is counted.')
    await vi.waitFor(() => expect(answers.length).toBe(2))
    answers[1]!({ json: {} })
    expect(await kept).toBe(true)
  })

  it('are of no track while none is chosen', async () => {
    trackId.value = null
    expect(await useCorrections(trackId, message).edit({ kind: 'halve' })).toBe(false)
    expect(asked).toEqual([])
  })
})
