import type { Chart } from '@/api/client'
import { vuetify } from '@/look/theme'
import { dragged } from '@/lanes/dragged.mock'
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import BarLane from './BarLane.vue'
import PointHandle from './PointHandle.vue'
import SectionLane from './SectionLane.vue'

const RATE = 1000
const scale = { startS: 0, pxPerS: 10, widthPx: 900 }
const beats = Array.from({ length: 16 }, (_, k) => 500 * k)
const chart = {
  rate: RATE,
  beats,
  beat_in_bar: beats.map((_, k) => k % 4),
  beats_per_bar: 4,
  tempo_bpm: 120,
  pinned_bars: [],
  free_time: false,
  sections: [
    { start_samples: 0, end_samples: 4000, label: 'A', role: 'intro' },
    { start_samples: 4000, end_samples: 8000, label: 'B', role: null },
  ],
} as unknown as Chart

describe('a point of the track', () => {
  const props = { name: 'opening', seconds: 2, pxPerS: 10, px: 20, isSet: false, row: 1 }
  it('is dragged, nudged and given back', async () => {
    const point = mount(PointHandle, { props })
    await dragged(point.find('.point'), 15)
    await point.trigger('keydown', { key: 'ArrowRight' })
    await point.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    expect(point.emitted('move')!.map(([s]) => (s as number).toFixed(2))).toEqual(['3.50', '2.01', '1.90'])
    await point.trigger('dblclick')
    await point.trigger('keydown', { key: 'Delete' })
    expect(point.emitted('reset')).toHaveLength(2)
  })
  it('says where it would go while it is held, and goes nowhere for a touch or an Escape', async () => {
    const point = mount(PointHandle, { props })
    await dragged(point.find('.point'), 1)
    await point.trigger('pointerdown', { button: 0, clientX: 100, pointerId: 1 })
    await point.trigger('pointermove', { clientX: 130 })
    expect(point.attributes('aria-valuetext')).toBe('0:05.00')
    await point.trigger('keydown', { key: 'Escape' })
    await point.trigger('pointerup', { clientX: 130 })
    expect(point.emitted('move')).toBeUndefined()
  })
})

describe('bar lines', () => {
  it('are dragged to another place, each from where it was', async () => {
    const lane = mount(BarLane, { props: { chart, scale } })
    const lines = lane.findAll('.line')
    expect(lines.map((l) => l.text())).toContain('1')
    await dragged(lines[1]!, 5)
    await dragged(lines[2]!, -1)
    expect(lane.emitted('edit')).toEqual([[{ kind: 'move_bar', from_samples: 2000, to_samples: 2500 }]])
  })
})

describe('sections', () => {
  it('begin elsewhere when their edge is dragged, are named and joined', async () => {
    const lane = mount(SectionLane, {
      props: { chart, scale },
      global: { plugins: [vuetify] },
      attachTo: document.body,
    })
    await dragged(lane.find('.edge'), 10)
    const [, label] = lane.findAll('.label')
    await label!.trigger('keydown', { key: 'u' })
    await label!.trigger('dblclick')
    const field = lane.get('input')
    await field.setValue('Bridge')
    await field.trigger('keydown', { key: 'Enter' })
    expect(lane.emitted('edit')!.map(([edit]) => edit)).toEqual([
      { kind: 'move_section', index: 1, label: '', at_samples: 5000 },
      { kind: 'merge_section', index: 1, label: '', at_samples: 0 },
      { kind: 'rename_section', index: 1, label: 'Bridge', at_samples: 0 },
    ])
    lane.unmount()
  })
})
