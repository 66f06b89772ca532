import type { Cue, Forecasts, Outlook } from '@/api/client'
import { api } from '@/api/client'
import { VueQueryPlugin, QueryClient } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { useForecasts } from './useForecasts'

const outlook = (track_id: number) => ({ track_id, suits: 50 + track_id }) as Outlook
const page = (ids: number[], next_after: number | null): Forecasts => ({
  outlooks: ids.map(outlook),
  looked_at: ids.length,
  n_tracks: 3,
  next_after,
})

describe('forecasts of a whole library', () => {
  afterEach(() => vi.restoreAllMocks())

  it('are asked for page by page, and say how far they have got until all are there', async () => {
    const asked: (number | undefined)[] = []
    const answers: ((data: Forecasts) => void)[] = []
    vi.spyOn(api, 'GET').mockImplementation(((_: string, init: { params: { query: { after?: number } } }) => {
      asked.push(init.params.query.after)
      return new Promise((resolve) => answers.push((data) => resolve({ data, response: new Response() })))
    }) as never)
    let forecasts!: ReturnType<typeof useForecasts>
    mount(
      defineComponent(() => {
        forecasts = useForecasts(
          () => ({ id: 4, slot_start_frames: 0, slot_length_flicks: 1 }) as Cue,
          () => 'library',
        )
        return () => h('div')
      }),
      { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } },
    )
    await flushPromises()
    answers[0]!(page([1, 2], 2))
    await vi.waitFor(() => expect(answers).toHaveLength(2))
    expect([...forecasts.outlooks.value.keys()]).toEqual([1, 2])
    expect(forecasts.progress.value).toBe('2 of 3 tracks judged for this slot')
    answers[1]!(page([3], null))
    await vi.waitFor(() => expect(forecasts.progress.value).toBe(''))
    expect(forecasts.outlooks.value.get(3)!.suits).toBe(53)
    expect(asked).toEqual([0, 2])
  })
})
