import { useFitBefore } from '@/desks/useFitBefore'
import { useTrial } from '@/desks/useTrial'
import { useSeams } from './useSeams'
import { useQuery } from '@tanstack/vue-query'
import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { computed, nextTick, ref } from 'vue'
import type { Chart, Cue, CueFit, Plan } from '@/api/client'
import { cueFitQuery, queryClient } from '@/api/queries'
import { mockServer, onPage } from '@/api/server.mock'

describe('useTrial', () => {
  it('asks for the latest length only, one at a time', async () => {
    const bodies: number[] = []
    let answer: (() => void)[] = []
    vi.stubGlobal('fetch', async (request: Request) => {
      bodies.push(((await request.json()) as { slot_length_flicks: number }).slot_length_flicks)
      await new Promise<void>((resolve) => answer.push(resolve))
      const json = JSON.stringify({ fit_id: null, track_id: 1, plan: null, problem: null })
      return new Response(json, { headers: { 'content-type': 'application/json' } })
    })
    const { trial, tryLength, end } = useTrial(() => 1)
    for (const flicks of [10, 20, 30]) tryLength(flicks)
    expect(trial.value!.flicks).toBe(30)
    await vi.waitFor(() => expect(answer.length).toBe(1))
    answer[0]!()
    await vi.waitFor(() => expect(answer.length).toBe(2))
    answer[1]!()
    await vi.waitFor(() => expect(trial.value!.fit).not.toBeNull())
    expect(bodies).toEqual([10, 30])
    end()
    expect(trial.value).toBeNull()
    answer = []
    vi.unstubAllGlobals()
  })
})

describe('useSeams', () => {
  const plan = ref({
    rate: 10,
    seams: [
      { out_samples: 100, source_to_samples: 5 },
      { out_samples: 300, source_to_samples: 50 },
    ],
  } as Plan)
  const chart = ref({
    rate: 10,
    meter: '4/4',
    beats_per_bar: 4,
    tempo_bpm: 120,
    beats: [0, 20, 40, 60],
    beat_in_bar: [0, 0, 0, 0],
  } as unknown as Chart)

  it('goes round, forwards and back, and plays a bar on either side', () => {
    const play = vi.fn(() => Promise.resolve())
    const seams = useSeams(plan, chart, { nowS: ref(0), seek: vi.fn(), play })
    expect(seams.next(0, false)!.out_samples).toBe(100)
    expect(seams.next(50, false)!.out_samples).toBe(100)
    expect(seams.next(20, true)!.out_samples).toBe(100)
    seams.hear(plan.value.seams[0]!)
    expect(play).toHaveBeenCalledWith(8, 12)
    expect(seams.next(8.5, false)!.out_samples).toBe(300)
  })
})

describe('the fit of a cue', () => {
  it('stays on screen until the next one comes, whatever else comes late', async () => {
    const fits: Record<number, (fit: unknown) => void> = {}
    mockServer(async () => ({ json: await new Promise((resolve) => (fits[flicks.value] = resolve)) }))
    const flicks = ref(72)
    const query = computed(() => cueFitQuery({ id: 1, slot_length_flicks: flicks.value } as Cue, 3, 'c'))
    const { data, leave } = onPage(() => useQuery(query))
    const asked = (length: number) => vi.waitFor(() => expect(fits[length]).toBeDefined())
    await asked(72)
    fits[72]!({ fit_id: 1, plan: {} })
    await vi.waitFor(() => expect(data.value!.fit_id).toBe(1))
    flicks.value = 50
    await asked(50)
    flicks.value = 72
    await flushPromises()
    fits[50]!({ fit_id: 2, plan: {} })
    await vi.waitFor(() => expect(queryClient.isFetching()).toBe(0))
    flicks.value = 60
    await asked(60)
    expect(data.value!.fit_id).toBe(1)
    fits[60]!({ fit_id: 3, plan: {} })
    await vi.waitFor(() => expect(data.value!.fit_id).toBe(3))
    leave()
    queryClient.clear()
    vi.unstubAllGlobals()
  })
})

describe('useFitBefore', () => {
  const fitted = (fit_id: number, plan: unknown = {}) => ({ fit_id, plan }) as CueFit
  it('has the fit before at hand until something else is fitted or looked at', async () => {
    const of = ref('1 1')
    const fit = ref<CueFit | undefined>(fitted(1))
    const { hasBefore, isBefore, heard } = useFitBefore(of, fit)
    expect(hasBefore.value).toBe(false)
    fit.value = fitted(2)
    await nextTick()
    isBefore.value = true
    expect(heard.value!.fit_id).toBe(1)
    fit.value = fitted(3)
    await nextTick()
    expect([isBefore.value, heard.value!.fit_id]).toEqual([false, 3])
    isBefore.value = true
    expect(heard.value!.fit_id).toBe(2)
    fit.value = fitted(0, null)
    await nextTick()
    isBefore.value = true
    expect(heard.value!.fit_id).toBe(3)
    ;[of.value, fit.value] = ['2 1', fitted(9)]
    await nextTick()
    expect([hasBefore.value, isBefore.value, heard.value!.fit_id]).toEqual([false, false, 9])
  })
})
