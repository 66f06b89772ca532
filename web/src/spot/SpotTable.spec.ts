import type { Cue, Hit, Picture, SheetRead } from '@/api/client'
import { wholeList } from '@/fields/stubs.mock'
import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import SpotTable from './SpotTable.vue'
import type { Tab } from './useChosen'

const picture = {
  id: 1,
  rate: { num: 25, den: 1, drop_frame: false },
  start_frames: 90_000,
  length_frames: 1800,
} as Picture
const hit = (id: number, at_frames: number, more: Partial<Hit> = {}) =>
  ({
    id,
    at_frames,
    until_frames: null,
    label: `Hit ${id}`,
    kind: 'downbeat',
    weight: 'must',
    tolerance_frames: 0,
    ...more,
  }) as Hit
const sheet = {
  revision: 7,
  hits: [hit(1, 100), hit(2, 200), hit(3, 300)],
  lines: [{ id: 5, start_frames: 10, end_frames: 60, text: 'Is it far?' }],
  carried: null,
} as unknown as SheetRead
const stubs = {
  VVirtualScroll: wholeList,
  VTabs: true,
  VTab: true,
  VIcon: true,
  SpotCueForm: { template: '<p class="form" />' },
}
const base = {
  picture,
  sheet,
  cues: [] as Cue[],
  selected: new Set<number>(),
  lineId: null,
  cueId: null,
  unit: 'timecode' as const,
  tab: 'hits' as Tab,
}
const shown = (more: object = {}) =>
  mount(SpotTable, {
    props: { ...base, ...more },
    slots: { tempo: '<p class="tempi" />' },
    global: { stubs },
    attachTo: document.body,
  })
const held = () => document.activeElement?.getAttribute('aria-label')

describe('the table of hits', () => {
  afterEach(() => (document.body.innerHTML = ''))

  it('sends what was typed, of what it was typed over', async () => {
    const table = shown()
    const time = table.get<HTMLInputElement>('[aria-label="Time of hit 2"]')
    expect(time.element.value).toBe('01:00:08:00')
    await time.trigger('focus')
    await table.setProps({ sheet: { ...sheet, revision: 8 } })
    await time.setValue('9s')
    await time.trigger('blur')
    await table.get('[aria-label="What hit 1 meets"]').setValue('last_hit')
    await table.get('[aria-label="Weight of hit 3"]').setValue('nice')
    const frames = table.get('[aria-label="Tolerance of hit 1 in frames"]')
    await frames.setValue('-2.4')
    await frames.trigger('blur')
    expect(table.emitted('edit')!.flat()).toEqual([
      { edit: 'change_hit', id: 2, revision: 7, at: '9s' },
      { edit: 'change_hit', id: 1, revision: 8, kind: 'last_hit' },
      { edit: 'change_hit', id: 3, revision: 8, weight: 'nice' },
      { edit: 'change_hit', id: 1, revision: undefined, tolerance_frames: 0 },
    ])
    table.unmount()
  })

  it('goes down and up a column by keys, and takes a row away', async () => {
    const table = shown()
    const label = table.get<HTMLInputElement>('[aria-label="Label of hit 1"]')
    label.element.focus()
    await label.trigger('keydown', { key: 'ArrowDown' })
    expect(held()).toBe('Label of hit 2')
    await table.get('[aria-label="Label of hit 2"]').trigger('keydown', { key: 'Enter' })
    expect(held()).toBe('Label of hit 3')
    await table.get('[aria-label="Label of hit 3"]').trigger('keydown', { key: 'Enter' })
    expect(held()).not.toBe('Label of hit 3')
    await table.get('[aria-label="Label of hit 2"]').trigger('keydown', { key: 'Delete', ctrlKey: true })
    expect(table.emitted('edit')).toEqual([[{ edit: 'remove_hits', ids: [2] }]])
    table.unmount()
  })

  it('has a column for ends only where something has one', async () => {
    const table = shown()
    expect(table.find('.head .until').exists()).toBe(false)
    const silent = hit(4, 400, { kind: 'silence', until_frames: 450 })
    await table.setProps({ sheet: { ...sheet, hits: [...sheet.hits, silent] } })
    expect(table.get('.head .until').text()).toBe('Until')
    const until = table.get<HTMLInputElement>('[aria-label="End of silence 4"]')
    expect(until.element.value).toBe('01:00:18:00')
    table.unmount()
  })

  it('has a hit named that was just marked, from whatever tab', async () => {
    const table = shown({ tab: 'lines', 'onUpdate:tab': (tab: Tab) => table.setProps({ tab }) })
    await (table.vm as unknown as { editHit(id: number): Promise<void> }).editHit(3)
    await nextTick()
    expect(table.emitted('update:tab')).toEqual([['hits']])
    expect(held()).toBe('Label of hit 3')
    table.unmount()
  })

  it('says what to do while there is nothing', async () => {
    const table = shown({ sheet: { ...sheet, hits: [], lines: [] } })
    expect(table.text()).toContain('press M')
    await table.setProps({ tab: 'lines' })
    expect(table.text()).toContain('drop a caption file')
    await table.setProps({ tab: 'cue' })
    expect(table.text()).toContain('press C')
    await table.setProps({ cues: [{ id: 4 } as Cue], cueId: 4 })
    expect(table.find('.form').exists()).toBe(true)
    await table.setProps({ tab: 'tempo' })
    expect(table.find('.tempi').exists()).toBe(true)
    table.unmount()
  })
})

describe('the table of lines', () => {
  it('has both ends and the words', async () => {
    const table = shown({ tab: 'lines' })
    const end = table.get<HTMLInputElement>('[aria-label="End of line 1"]')
    expect(end.element.value).toBe('01:00:02:10')
    await end.trigger('focus')
    await end.setValue('+10f')
    await end.trigger('blur')
    const words = table.get('[aria-label="Words of line 1"]')
    await words.trigger('focus')
    await words.setValue('Not far.')
    await words.trigger('blur')
    await table.get('[aria-label="Remove line 1"]').trigger('click')
    expect(table.emitted('edit')!.flat()).toEqual([
      { edit: 'change_line', id: 5, revision: 7, end: '+10f' },
      { edit: 'change_line', id: 5, revision: 7, text: 'Not far.' },
      { edit: 'remove_lines', ids: [5] },
    ])
    table.unmount()
  })
})
