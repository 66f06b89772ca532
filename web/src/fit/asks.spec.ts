import { ASKS } from '@/api/asks'
import type { Asks, SeamSaid } from '@/api/client'
import { queryClient } from '@/api/queries'
import { mockServer } from '@/api/server.mock'
import { subjectKeys } from '@/desks/workbench'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import type { CueChange } from '@/desks/cueDesk'
import { useSeamWishes } from './useAsks'
import AskFields from './AskFields.vue'
import WaysPanel from './WaysPanel.vue'

const COSTS = { seams: [], hits: 0, opening: 'own', ending: 'own', sections: 'A', repeated_pct: 0 }

/** A bench with a cue that asks for something, and what it was asked to change. */
function benchWith(asks: Asks | null) {
  const cue = ref({ asks, slot_start_frames: 0, slot_length_flicks: 40 * 705_600_000 })
  const updateCue = vi.fn<(asked: object) => Promise<string>>(async () => '')
  const changes: CueChange[] = []
  const bench = {
    cue,
    track: ref<object | undefined>(),
    picture: ref({ rate: { num: 25, den: 1, drop_frame: false } }),
    chart: ref({ rate: 100 }),
    message: ref(''),
    spotting: { sheet: computed(() => ({ hits: [], lines: [] })) },
    updateCue: async (change: CueChange) => {
      changes.push(change)
      return updateCue(typeof change === 'function' ? change(cue.value as never) : change)
    },
  }
  return {
    bench,
    updateCue,
    changes,
    global: {
      provide: Object.fromEntries(Object.values(subjectKeys).map((key) => [key as symbol, bench])),
      plugins: [[VueQueryPlugin, { queryClient }]] as [typeof VueQueryPlugin, object][],
    },
  }
}

describe('what is asked of a fit', () => {
  it('is added to what was asked before', async () => {
    const { updateCue, global } = benchWith({ method: 'loop', give_pct: 2 } as Asks)
    const fields = mount(AskFields, { global })
    await fields.get('[aria-label="How the music ends"]').setValue('fade')
    expect(updateCue).toHaveBeenCalledWith({ asks: { method: 'loop', give_pct: 2, landing: 'fade' } })
  })
  it('is added to what is asked for by the time that it is its turn', async () => {
    const { changes, global } = benchWith(null)
    await mount(AskFields, { global }).get('[aria-label="How the music ends"]').setValue('fade')
    const now = { asks: { give_pct: 3 } } as never
    expect((changes[0] as (cue: never) => object)(now)).toEqual({ asks: { give_pct: 3, landing: 'fade' } })
  })
  it('is left to the planner again where nothing is chosen', async () => {
    const { updateCue, global } = benchWith({ opening: 'section', listening: { voice: 2.5 } } as Asks)
    const fields = mount(AskFields, { global })
    await fields.get('[aria-label="Where the music begins"]').setValue('')
    expect(updateCue).toHaveBeenCalledWith({ asks: { listening: { voice: 2.5 } } })
    await fields.get('[aria-label="What counts at a seam"]').setValue('all')
    expect(updateCue).toHaveBeenLastCalledWith({ asks: { opening: 'section' } })
  })
  it('refuses what is no number in words, and asks for nothing', async () => {
    const { bench, updateCue, global } = benchWith(null)
    const give = mount(AskFields, { global }).get<HTMLInputElement>('[aria-label^="Most change of speed"]')
    await give.trigger('focus')
    await give.setValue('much')
    await give.trigger('blur')
    expect(bench.message.value).toBe('“much” is no number. Leave it empty for the usual.')
    expect(updateCue).not.toHaveBeenCalled()
  })
  it('has the units, ranges and usual values that the API declares', () => {
    const { global } = benchWith(null)
    const give = mount(AskFields, { global }).get('[aria-label^="Most change of speed"]')
    const { low, high, unit } = ASKS.give_pct
    expect(give.attributes('aria-label')).toBe(`Most change of speed, ${low} to ${high} ${unit}`)
    const early = mount(AskFields, { global }).get('[aria-label^="How much of the ring-out"]')
    expect(early.attributes('placeholder')).toBe(String(ASKS.early_pct.default))
  })
})

describe('the other ways', () => {
  it('stay to be chosen from while those are on their way of what is asked for now', async () => {
    const waiting: ((ways: object[]) => void)[] = []
    mockServer(async () => ({ json: await new Promise((resolve) => waiting.push(resolve)) }))
    const { bench, updateCue, global } = benchWith(null)
    Object.assign(bench, { track: ref({ id: 3, state: 'ready', chart_id: 'c' }) })
    const panel = mount(WaysPanel, {
      global: { ...global, stubs: { AskFields: true } },
    })
    const answered = async (...methods: string[]) => {
      await vi.waitFor(() => expect(waiting.length).toBe(1))
      waiting.pop()!(methods.map((method) => ({ method, costs: { ...COSTS }, problem: null })))
      await vi.waitFor(() => expect(panel.findAll('.choose').length).toBe(methods.length))
    }
    expect(panel.get('[role="status"]').text()).toBe('Trying every way …')
    await answered('blend', 'trim')
    const trim = panel.findAll('.choose')[1]!
    bench.cue.value = { ...bench.cue.value, asks: { give_pct: 2 } as Asks }
    await vi.waitFor(() => expect(panel.get('table').attributes('aria-busy')).toBe('true'))
    await trim.trigger('click')
    expect(updateCue).toHaveBeenCalledWith({ asks: { give_pct: 2, method: 'trim' } })
    await answered('blend', 'trim', 'loop')
    expect(panel.get('table').attributes('aria-busy')).toBe('false')
    expect(panel.findAll('.choose')[1]!.element).toBe(trim.element)
    panel.unmount()
    queryClient.clear()
    vi.unstubAllGlobals()
  })
})

describe('seams that are wished for', () => {
  const seam = (leaves_samples: number, wish: string) =>
    ({ leaves_samples, enters_samples: 9, wish }) as SeamSaid

  it('are kept, left out and let go of by name', async () => {
    const { bench, global } = benchWith(null)
    const asked = mockServer(({ method }) => ({
      json: method === 'PUT' ? [] : [seam(1, 'kept'), seam(2, 'forbidden'), seam(3, 'forbidden')],
    }))
    Object.assign(bench, {
      track: ref({ id: 3, state: 'ready' }),
      attempt: async (work: () => Promise<unknown>) => (await work(), true),
    })
    Object.assign(bench.cue.value, { id: 5 })
    const fields = mount(AskFields, { global })
    await vi.waitFor(() => expect(fields.text()).toContain('1 seam kept'))
    expect(fields.text()).toContain('2 seams left out')
    await fields.findAll('button').at(-1)!.trigger('click')
    const puts = () => asked.filter(({ method }) => method === 'PUT')
    await vi.waitFor(() => expect(puts().length).toBe(1))
    const names = [2, 3].map((leaves_samples) => ({ leaves_samples, enters_samples: 9, wish: null }))
    expect(puts()[0]).toMatchObject({ path: '/api/cues/5/seams', body: { seams: names } })
    let made!: ReturnType<typeof useSeamWishes>
    mount({ setup: () => ((made = useSeamWishes()), () => null) }, { global })
    await made.keep(seam(4, ''))
    await made.keep(seam(4, 'kept'))
    await made.forbid(seam(4, 'kept'))
    const wishes = puts().slice(1)
    expect(wishes.map(({ body }) => (body as { seams: SeamSaid[] }).seams[0]!.wish)).toEqual([
      'kept',
      null,
      'forbidden',
    ])
    fields.unmount()
    queryClient.clear()
    vi.unstubAllGlobals()
  })
})
