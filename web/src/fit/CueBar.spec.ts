import type { Cue } from '@/api/client'
import { subjectKeys } from '@/desks/workbench'
import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import CueBar from './CueBar.vue'

const rate = { num: 25, den: 1, drop_frame: false }
const SECOND = 705_600_000
const cue = {
  id: 4,
  number: '1m2',
  name: 'Dusk',
  slot_start_frames: 1000,
  slot_length_flicks: 30 * SECOND,
  look_again: false,
} as Cue

/** A bar whose cue answers when the test says so. */
function shown(more: object = {}) {
  const answers: ((refusal: string | null) => void)[] = []
  const updateCue = vi.fn<(change: object) => Promise<string | null>>(
    () => new Promise((resolve) => void answers.push(resolve)),
  )
  const desk = { cues: ref([cue]), cueId: ref(4), updateCue }
  const picture = ref({ length_frames: 1500, rate })
  const message = ref('')
  const bar = mount(CueBar, {
    props: {
      cue,
      rate,
      trackTitle: 'First Light',
      trialFlicks: null,
      fitId: 1,
      canSave: true,
      hasBars: true,
      isBefore: false,
      ...more,
    },
    attachTo: document.body,
    global: {
      stubs: {
        SaveButton: true,
        VIcon: true,
        VMenu: { template: '<div><slot name="activator" :props="{}" /></div>' },
        VBtn: { template: '<button><slot /></button>' },
      },
      provide: {
        [subjectKeys.session as symbol]: { message },
        [subjectKeys.pictureDesk as symbol]: { picture },
        [subjectKeys.cueDesk as symbol]: desk,
      },
    },
  })
  const field = bar.get<HTMLInputElement>('#length')
  const type = async (text: string) => {
    field.element.focus()
    await field.trigger('focus')
    await field.setValue(text)
    await field.trigger('keydown', { key: 'Enter' })
  }
  return { bar, field, type, updateCue, answers, message }
}

describe('the length of a cue', () => {
  it('is sent as it was typed, and only where it is another one', async () => {
    const { bar, field, type, updateCue } = shown()
    expect(field.element.value).toBe('0:30.000')
    expect(bar.get('.timecode').text()).toBe('00:00:30:00')
    await type('0:30.000')
    expect(updateCue).not.toHaveBeenCalled()
    await type(' 28s12f ')
    await type('')
    expect(updateCue.mock.calls).toEqual([[{ length: '28s12f' }], [{ length: '?' }]])
    bar.unmount()
  })

  it('says why it cannot be, with the text still there to put right', async () => {
    const { bar, field, type, answers } = shown()
    await type('3')
    answers[0]!('Three seconds is too short for this track.')
    await flushPromises()
    expect(bar.get('[role=alert]').text()).toBe('Three seconds is too short for this track.')
    expect([field.element.value, field.attributes('aria-invalid')]).toEqual(['3', 'true'])
    await field.trigger('keydown', { key: 'Escape' })
    expect([bar.get('[role=alert]').text(), field.element.value]).toEqual(['', '0:30.000'])
    bar.unmount()
  })

  it('is not disturbed by the answer to what was typed before', async () => {
    const { bar, field, type, answers } = shown()
    await type('3')
    await field.trigger('focus')
    await field.setValue('45')
    answers[0]!('Too short.')
    await flushPromises()
    expect([bar.get('[role=alert]').text(), field.element.value]).toEqual(['', '45'])
    bar.unmount()
  })

  it('follows the hand while the end is dragged, and says how far it runs past its picture', async () => {
    const { bar, field } = shown()
    expect(bar.get('.past').text()).toContain('runs 0:10.00 past the end of its picture')
    await bar.setProps({ trialFlicks: 20 * SECOND })
    expect([field.element.value, bar.find('.past').exists()]).toEqual(['0:20.000', false])
    bar.unmount()
  })

  it('says that the picture changed under it until somebody has seen it', async () => {
    const { bar, updateCue, answers, message } = shown({ cue: { ...cue, look_again: true } })
    expect(bar.get('.again').text()).toContain('The picture changed under this cue')
    await bar.get('.again button').trigger('click')
    expect(updateCue).toHaveBeenCalledWith({ look_again: false })
    answers[0]!('Somebody removed this cue.')
    await flushPromises()
    expect(message.value).toBe('Somebody removed this cue.')
    bar.unmount()
  })
})
