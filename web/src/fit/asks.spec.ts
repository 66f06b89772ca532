import type { CueAsks } from '@/api/client'
import { queryClient } from '@/api/queries'
import { mockServer } from '@/api/server.mock'
import { subjectKeys } from '@/desks/workbench'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import type { CueChange } from '@/desks/cueDesk'
import { useAsks } from './useAsks'
import AskFields from './AskFields.vue'
import WaysPanel from './WaysPanel.vue'

const COSTS = { seams: [], hits: 0, opening: 'own', ending: 'own', sections: 'A', repeated_pct: 0 }

/** A bench with a cue that asks for something, and what it was asked to change. */
function benchWith(asks: CueAsks | null) {
  const cue = ref({ asks, slot_start_frames: 0, slot_length_flicks: 40 * 705_600_000 })
  const updateCue = vi.fn<(asked: object) => Promise<string>>(async () => '')
  const changes: CueChange[] = []
  const bench = {
    cue,
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
    global: { provide: Object.fromEntries(Object.values(subjectKeys).map((key) => [key as symbol, bench])) },
  }
}

describe('what is asked of a fit', () => {
  it('is added to what was asked before', async () => {
    const { updateCue, global } = benchWith({ method: 'loop', give_pct: 2 } as CueAsks)
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
    const { updateCue, global } = benchWith({ opening: 'section', listening: { voice: 2.5 } } as CueAsks)
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
  it('says which seams are kept and left out, and lets go of them', async () => {
    const { updateCue, global } = benchWith({
      kept_seams: [[1, 2]],
      forbidden_seams: [
        [3, 4],
        [5, 6],
      ],
    } as CueAsks)
    const fields = mount(AskFields, { global })
    expect(fields.text()).toContain('1 seam kept')
    expect(fields.text()).toContain('2 seams left out')
    await fields.findAll('button').at(-1)!.trigger('click')
    expect(updateCue).toHaveBeenCalledWith({ asks: { kept_seams: [[1, 2]] } })
  })
})

describe('the other ways', () => {
  it('stay to be chosen from while those are on their way of what is asked for now', async () => {
    const waiting: ((ways: object[]) => void)[] = []
    mockServer(async () => ({ json: await new Promise((resolve) => waiting.push(resolve)) }))
    const { bench, updateCue, global } = benchWith(null)
    Object.assign(bench, { track: ref({ id: 3, state: 'ready', chart_id: 'c' }) })
    const panel = mount(WaysPanel, {
      global: { ...global, plugins: [[VueQueryPlugin, { queryClient }]], stubs: { AskFields: true } },
    })
    const answered = async (...methods: string[]) => {
      await vi.waitFor(() => expect(waiting.length).toBe(1))
      waiting.pop()!(methods.map((method) => ({ method, costs: { ...COSTS }, problem: null })))
      await vi.waitFor(() => expect(panel.findAll('.choose').length).toBe(methods.length))
    }
    expect(panel.get('[role="status"]').text()).toBe('Trying every way …')
    await answered('blend', 'trim')
    const trim = panel.findAll('.choose')[1]!
    bench.cue.value = { ...bench.cue.value, asks: { give_pct: 2 } as CueAsks }
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

describe('a seam', () => {
  const seam = { source_from_samples: 1000, source_to_samples: 4000 } as Parameters<
    ReturnType<typeof useAsks>['keep']
  >[0]
  function asking(asks: CueAsks) {
    const { updateCue, global } = benchWith(asks)
    let made!: ReturnType<typeof useAsks>
    mount({ setup: () => ((made = useAsks()), () => null) }, { global })
    return { ...made, updateCue }
  }
  it('is kept, and kept no more when asked again', async () => {
    const first = asking({} as CueAsks)
    await first.keep(seam)
    expect(first.updateCue).toHaveBeenCalledWith({ asks: { kept_seams: [[1000, 4000]] } })
    const again = asking({ kept_seams: [[1010, 3995]] } as CueAsks)
    await again.keep(seam)
    expect(again.updateCue).toHaveBeenCalledWith({ asks: {} })
  })
  it('is left out beside others, and kept no more', async () => {
    const { forbid, updateCue } = asking({ kept_seams: [[1000, 4000]], forbidden_seams: [[7, 8]] } as CueAsks)
    await forbid(seam)
    expect(updateCue).toHaveBeenCalledWith({
      asks: {
        kept_seams: [],
        forbidden_seams: [
          [7, 8],
          [1000, 4000],
        ],
      },
    })
  })
})
