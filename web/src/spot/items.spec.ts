import type { Cue, Hit } from '@/api/client'
import { dragged } from '@/lanes/dragged.mock'
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import SpotCue from './SpotCue.vue'
import SpotHit from './SpotHit.vue'

describe('a hit on the lanes', () => {
  const hit = {
    id: 1,
    at_frames: 300,
    until_frames: null,
    label: 'Door',
    kind: 'downbeat',
    weight: 'must',
    tolerance_frames: 0,
  } as unknown as Hit
  const props = {
    hit,
    at: '00:00:12:00',
    leftPx: 50,
    widthPx: 1,
    pxPerFrame: 4,
    isSelected: false,
    threadPx: 100,
    row: 0,
  }

  it('goes by whole frames, dragged or nudged, and is chosen with the first touch', async () => {
    const flag = mount(SpotHit, { props })
    await dragged(flag.find('.hit'), 10)
    await flag.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    expect(flag.emitted('move')).toEqual([
      [3, true],
      [-10, false],
    ])
    expect(flag.emitted('select')![0]).toEqual([false])
    await flag.trigger('keydown', { key: 'Delete' })
    expect(flag.emitted('remove')).toHaveLength(1)
  })
  it('says what it is in words', () => {
    expect(mount(SpotHit, { props }).attributes('aria-label')).toBe('Door at 00:00:12:00, beat one, must')
  })
})

describe('a cue on the lanes', () => {
  const cue = { id: 4, number: '1m2', name: 'Dusk', colour: 'sage', status: 'open', look_again: true } as Cue
  const props = {
    cue,
    trackTitle: '',
    times: '0 to 9',
    leftPx: 20,
    widthPx: 200,
    row: 1,
    pxPerFrame: 4,
    isSelected: true,
    dark: true,
  }

  it('is moved whole or by its ends', async () => {
    const slot = mount(SpotCue, { props })
    await dragged(slot.find('.cue'), 8)
    const [start, end] = slot.findAll('.end')
    await dragged(start!, -4)
    await dragged(end!, 12)
    await slot.trigger('keydown', { key: 'ArrowRight', altKey: true })
    await slot.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    expect(slot.emitted('change')).toEqual([
      ['both', 2],
      ['start', -1],
      ['end', 3],
      ['end', 1],
      ['both', -10],
    ])
  })
  it('says that the picture changed under it', () => {
    const slot = mount(SpotCue, { props })
    expect(slot.attributes('aria-label')).toContain('1m2 Dusk, 0 to 9, no track yet')
    expect(slot.find('.again').exists()).toBe(true)
  })
})
