import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import NameDialog from '@/fields/NameDialog.vue'
import ProductionMenu from './ProductionMenu.vue'
import { subjectKeys } from '@/desks/workbench'

const stubs = {
  VMenu: { template: '<div><slot name="activator" :props="{}" /><slot /></div>' },
  VList: { template: '<ul><slot /></ul>' },
  VListItem: { props: ['title', 'active'], template: '<li :class="{ active }">{{ title }}</li>' },
  VDivider: true,
  VBtn: { template: '<button><slot /></button>' },
  NameDialog: true,
}

describe('the productions', () => {
  const productions = ref([
    { id: 1, name: 'Harbour Light', is_put_away: false },
    { id: 2, name: 'Night Ferry', is_put_away: false },
    { id: 3, name: 'Old Pilot', is_put_away: true },
  ])
  const productionId = ref<number | undefined>(1)
  const session = {
    productions,
    productionId,
    production: computed(() => productions.value.find((p) => p.id === productionId.value)),
    openProduction: vi.fn(),
    addProduction: vi.fn(),
    updateProduction: vi.fn(),
  }
  const shown = () =>
    mount(ProductionMenu, { global: { stubs, provide: { [subjectKeys.session as symbol]: session } } })
  const titles = (menu: ReturnType<typeof shown>) => menu.findAll('li').map((item) => item.text())
  const choose = (menu: ReturnType<typeof shown>, title: string) =>
    menu
      .findAll('li')
      .find((item) => item.text() === title)!
      .trigger('click')

  it('are opened, named, put away and taken out again', async () => {
    const menu = shown()
    expect(menu.get('button').text()).toBe('Harbour Light')
    expect(titles(menu)).not.toContain('Old Pilot')
    await choose(menu, 'Night Ferry')
    expect(session.openProduction).toHaveBeenLastCalledWith(2)
    await choose(menu, 'Put this one away')
    expect(session.updateProduction).toHaveBeenLastCalledWith(1, { is_put_away: true })
    await choose(menu, '1 put away …')
    await choose(menu, 'Old Pilot')
    expect(session.updateProduction).toHaveBeenLastCalledWith(3, { is_put_away: false })
    expect(session.openProduction).toHaveBeenLastCalledWith(3)
    const [adding, naming] = menu.findAllComponents(NameDialog)
    adding!.vm.$emit('named', 'Salt Road')
    naming!.vm.$emit('named', 'Harbour Lights')
    expect(session.addProduction).toHaveBeenCalledWith('Salt Road')
    expect(session.updateProduction).toHaveBeenLastCalledWith(1, { name: 'Harbour Lights' })
  })

  it('are never all put away', () => {
    productions.value = productions.value.map((p) => ({ ...p, is_put_away: p.id !== 1 }))
    const menu = shown()
    expect(titles(menu)).not.toContain('Put this one away')
    productionId.value = undefined
    expect(titles(shown())).toEqual(['Harbour Light', 'A new production …', '2 put away …'])
  })
})

describe('a name that is asked for', () => {
  const open = (name: string) =>
    mount(NameDialog, {
      props: { modelValue: false, title: 'Name', name, does: 'Name it' },
      global: {
        stubs: {
          ...stubs,
          NameDialog: false,
          VDialog: { template: '<div><slot /></div>' },
          VCard: { template: '<div><slot /></div>' },
          VCardText: { template: '<div><slot /></div>' },
          VCardActions: { template: '<div><slot /></div>' },
          VSpacer: true,
          VTextField: {
            props: ['modelValue'],
            emits: ['update:modelValue'],
            template:
              '<input :value="modelValue" @input="$emit(\'update:modelValue\', $event.target.value)" />',
          },
        },
      },
    })

  it('begins with the one it has, and is never empty', async () => {
    const dialog = open('Reel 1')
    await dialog.setProps({ modelValue: true })
    const field = dialog.get('input')
    expect(field.element.value).toBe('Reel 1')
    await field.setValue('   ')
    await field.trigger('keydown', { key: 'Enter' })
    expect(dialog.emitted('named')).toBeUndefined()
    await field.setValue(' Reel 2 ')
    await field.trigger('keydown', { key: 'Enter' })
    expect(dialog.emitted('named')).toEqual([['Reel 2']])
    expect(dialog.emitted('update:modelValue')).toEqual([[false]])
    await dialog.setProps({ modelValue: false })
    await dialog.setProps({ modelValue: true })
    expect(field.element.value).toBe('Reel 1')
  })
})
