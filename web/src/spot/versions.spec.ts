import type { Carried, Picture, Schemas } from '@/api/client'
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { subjectKeys } from '@/desks/workbench'
import CarriedList from './CarriedList.vue'
import LikenessDialog from '@/picture/LikenessDialog.vue'

const rate = { num: 25, den: 1, drop_frame: false }
const stubs = {
  VBtn: { template: '<button><slot /></button>' },
  VDialog: { props: ['modelValue'], template: '<div v-if="modelValue"><slot /></div>' },
  VCard: { template: '<section><slot /></section>' },
  VCardText: { template: '<div><slot /></div>' },
  VCardActions: { template: '<div><slot /></div>' },
  VSpacer: true,
}

describe('what was carried', () => {
  const slot = { id: 9, number: '1m2', name: 'Look', start_frames: 700, end_frames: 800 }
  const carried = {
    from_id: 1,
    from_name: 'Film',
    n_same: 0,
    moved: [],
    left_hits: [],
    left_lines: [],
    left_slots: [{ ...slot, at_first_hit_frames: 574, at_old_time_frames: null }],
  } as Carried

  it('offers a cue that was left every place that it can have', async () => {
    const list = mount(CarriedList, { props: { carried, at: (f: number) => `${f}f` }, global: { stubs } })
    expect(list.text()).toContain('Every shot moved or changed.')
    expect(list.text()).not.toContain('When it was')
    for (const button of list.findAll('[role=group] button')) await button.trigger('click')
    expect(list.emitted('place')).toEqual([
      [9, 574],
      [9, null],
    ])
  })
  it('says in good English how much did not change', () => {
    const words = (n_same: number) =>
      mount(CarriedList, { props: { carried: { ...carried, n_same }, at: String }, global: { stubs } }).text()
    expect(words(1)).toContain('1 shot has not changed at all.')
    expect(words(4)).toContain('4 shots have not changed at all.')
  })
})

describe('which shot is which', () => {
  const span = (start_frames: number, end_frames: number) => ({ start_frames, end_frames })
  const shots = [
    { old_index: 0, name: 'Dusk', before: span(0, 100), after: span(0, 90), sure_pct: 97 },
    { old_index: 2, name: 'Moon', before: span(150, 200), after: span(90, 140), sure_pct: 60 },
    { old_index: null, name: 'Fog', before: null, after: span(140, 150), sure_pct: null },
    { old_index: 1, name: '', before: span(100, 150), after: null, sure_pct: null },
  ]
  function open(refusedOnes: number[] = []) {
    const likeness = {
      words: ref('No reels.'),
      file: ref(new File([], 'a.edl')),
      found: ref<Schemas['LikenessRead'] | null>({ shots, n_carried: 3, n_marks: 4 }),
      refused: ref<ReadonlySet<number>>(new Set(refusedOnes)),
      toggle: vi.fn(),
      leave: vi.fn(),
      carry: vi.fn(),
    }
    const lists = { likeness, importMarks: vi.fn(), addVersion: vi.fn() }
    const picture = { id: 1, rate, start_frames: 0, film: null } as unknown as Picture
    const dialog = mount(LikenessDialog, {
      props: { picture },
      global: { stubs, provide: { [subjectKeys.pictureDesk as symbol]: { lists } } },
    })
    return { dialog, likeness }
  }
  const rowsOf = (dialog: ReturnType<typeof open>['dialog']) =>
    dialog.findAll('tbody tr').map((row) => row.findAll('td').map((cell) => cell.text()))

  it('lays both versions side by side, says what is less sure, and names what has no name', () => {
    const { dialog } = open()
    const rows = rowsOf(dialog)
    expect(rows.map((r) => r[1])).toEqual(['Dusk', 'Moon', 'Fog', 'old shot 2'])
    expect(rows.map((r) => r[4])).toEqual(['−10 frames', 'as long', 'new', 'gone'])
    expect(rows.map((r) => r[5])).toEqual(['97 %', '60 %', '', ''])
    expect(dialog.text()).toContain('1 less than 80 % sure')
    expect(dialog.text()).toContain('3 of 4 marks and cues come along')
    expect(dialog.findAll('input[type=checkbox]')).toHaveLength(2)
  })
  it('takes a pair back and makes the version of what is left', async () => {
    const { dialog, likeness } = open([2])
    expect(rowsOf(dialog)[1]![4]).toBe('not the same')
    await dialog.get('input[aria-label="Dusk is the same shot"]').trigger('change')
    expect(likeness.toggle).toHaveBeenCalledWith(0)
    const button = (words: string) => dialog.findAll('button').find((b) => b.text().startsWith(words))!
    await button('Make the new version').trigger('click')
    expect(likeness.carry).toHaveBeenCalled()
    await button('Give the new film').trigger('click')
    expect(likeness.leave).toHaveBeenCalled()
    expect(dialog.emitted('film')).toHaveLength(1)
  })
})
