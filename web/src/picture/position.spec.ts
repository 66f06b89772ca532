import type { Picture } from '@/api/client'
import { subjectKeys } from '@/desks/workbench'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import PositionField from './PositionField.vue'

describe('where we are', () => {
  const picture = ref<Picture | undefined>()
  const pictureS = ref<number | null>(12)
  const listeningTo = ref('picture')
  const player = { nowS: ref(3.256), seek: vi.fn() }
  const position = vi.fn<(text: string, here: number) => Promise<number | undefined>>(async () => 500)
  beforeEach(() => {
    picture.value = {
      id: 1,
      rate: { num: 25, den: 1, drop_frame: false },
      start_frames: 90_000,
    } as Picture
    listeningTo.value = 'picture'
    pictureS.value = 12
    player.seek.mockClear()
  })
  const shown = (isWide = true) =>
    mount(PositionField, {
      props: { isWide },
      attachTo: document.body,
      global: {
        provide: {
          [subjectKeys.pictureDesk as symbol]: { picture, spotting: { position } },
          [subjectKeys.cueDesk as symbol]: { track: ref({ id: 2 }) },
          [subjectKeys.transport as symbol]: { player, listeningTo, previewed: ref(null), pictureS },
        },
      },
    })
  const press = async (key: string) => {
    window.dispatchEvent(new KeyboardEvent('keydown', { key }))
    await nextTick()
  }

  it('is timecode on the picture, and a clock in a track that is played by itself', async () => {
    const field = shown(false)
    expect(field.text()).toBe('01:00:12:00')
    listeningTo.value = 'track'
    pictureS.value = null
    await nextTick()
    expect(field.text()).toBe('0:03.26')
    listeningTo.value = 'picture'
    picture.value = undefined
    await nextTick()
    expect(field.text()).toBe('--:--:--:--')
    field.unmount()
  })

  it('is typed to go there: the server reads it from where we are', async () => {
    const field = shown()
    await press('g')
    const input = field.get<HTMLInputElement>('[aria-label="Go to"]')
    expect(input.element.value).toBe('01:00:12:00')
    pictureS.value = 12.4
    await nextTick()
    expect(input.element.value).toBe('01:00:12:00')
    await input.setValue('+200f')
    await input.trigger('keydown', { key: 'Enter' })
    await flushPromises()
    expect(position).toHaveBeenLastCalledWith('+200f', 310)
    expect(player.seek).toHaveBeenCalledWith(20)
    field.unmount()
  })

  it('stays where it is after a time that cannot be read, Escape, or no change', async () => {
    const field = shown()
    position.mockResolvedValueOnce(undefined)
    for (const [text, key] of [
      ['quarter past', 'Enter'],
      ['9s', 'Escape'],
      ['01:00:12:00', 'Enter'],
    ] as const) {
      await press('g')
      const input = field.get('[aria-label="Go to"]')
      await input.setValue(text)
      await input.trigger('keydown', { key })
      await flushPromises()
      expect(field.find('[aria-label="Go to"]').exists()).toBe(false)
    }
    expect(player.seek).not.toHaveBeenCalled()
    field.unmount()
  })
})
