import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import CellField from './CellField.vue'

describe('a field of a table', () => {
  it('keeps what is typed while the page is drawn anew, and hands it on with the revision that was looked at', async () => {
    const field = mount(CellField, { props: { value: 'Dusk', revision: 3 }, attachTo: document.body })
    const input = field.get('input')
    input.element.focus()
    await input.setValue('Dawn')
    await field.setProps({ value: 'Noon', revision: 4 })
    expect(input.element.value).toBe('Dawn')
    await input.trigger('keydown', { key: 'Enter' })
    expect(field.emitted('set')).toEqual([['Dawn', 3]])
    expect(input.element.value).toBe('Noon')
    field.unmount()
  })
  it('gives the old value back on Escape, and takes Enter for a new line where there are several', async () => {
    const field = mount(CellField, { props: { value: 'soft', rows: 3 }, attachTo: document.body })
    const area = field.get('textarea')
    area.element.focus()
    await area.setValue('softer')
    await area.trigger('keydown', { key: 'Enter' })
    expect(field.emitted('set')).toBeUndefined()
    await area.trigger('keydown', { key: 'Escape' })
    expect([area.element.value, field.emitted('set')]).toEqual(['soft', undefined])
    field.unmount()
  })
})
