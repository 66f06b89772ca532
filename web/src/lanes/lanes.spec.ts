import { toPx } from '@/drawing/scale'
import { sized } from '@/fields/stubs.mock'
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, nextTick, ref, type Ref } from 'vue'
import LaneStack from './LaneStack.vue'
import PlayHead from './PlayHead.vue'
import { laneKeys, useLaneStack, type Lane } from './useLaneStack'

const WIDTH_PX = 800

beforeEach(() => sized(WIDTH_PX, 100))

/** A page with two lanes on an axis of 80 seconds; `drawn` counts how often it was drawn. */
async function page(nowS: Ref<number> = ref(0)) {
  let stack!: ReturnType<typeof useLaneStack>
  const drawn = vi.fn()
  const lanes = ref<Lane[]>([
    { key: 'time', name: 'Time', px: 24 },
    { key: 'wave', share: 2 },
  ])
  const component = defineComponent({
    setup() {
      stack = useLaneStack({ nowS }, ref(80), ref(48_000), lanes)
      return () => {
        drawn()
        return h(LaneStack, { stack, label: 'Lanes', namesPx: 80 }, () => [h('div'), h('div')])
      }
    },
  })
  const mounted = mount(component, { attachTo: document.body })
  await nextTick()
  await nextTick()
  return { mounted, stack, drawn, nowS }
}
const wheel = (init: object) =>
  ({ deltaX: 0, deltaY: 0, clientX: 200, ctrlKey: false, metaKey: false, ...init }) as WheelEvent

describe('a stack of lanes', () => {
  it('shows everything at first, names its lanes and gives each its height', async () => {
    const { mounted, stack } = await page()
    expect(stack.scale.value).toEqual({ startS: 0, pxPerS: 10, widthPx: WIDTH_PX })
    expect(mounted.find('.names').text()).toBe('Time')
    expect(stack.rows.value).toBe('24px minmax(0, 2fr)')
    expect(stack.lineOf('wave')).toBe(2)
  })
  it('zooms around the pointer with Ctrl, scrolls without, and stays within what there is', async () => {
    const { stack } = await page()
    const under = stack.secondsAt(wheel({}))
    stack.turn(wheel({ deltaY: -300, ctrlKey: true }))
    expect(stack.scale.value.pxPerS).toBeCloseTo(10 * Math.E, 6)
    expect(stack.secondsAt(wheel({}))).toBeCloseTo(under, 6)
    const { startS } = stack.scale.value
    stack.turn(wheel({ deltaX: 100 }))
    expect(stack.scale.value.startS).toBeCloseTo(startS + 100 / stack.scale.value.pxPerS, 6)
    stack.turn(wheel({ deltaX: 1e6 }))
    expect(toPx(stack.scale.value, 80)).toBeCloseTo(WIDTH_PX, 6)
    stack.turn(wheel({ deltaY: 1e6, ctrlKey: true }))
    expect(stack.view.isWhole.value).toBe(true)
  })
  it('follows the clock out of view, and not while everything is seen', async () => {
    const { stack, nowS } = await page()
    nowS.value = 79
    expect(stack.scale.value.startS).toBe(0)
    stack.view.zoomTo(5, 8)
    nowS.value = 40
    expect(toPx(stack.scale.value, 40)).toBeGreaterThanOrEqual(0)
    expect(toPx(stack.scale.value, 40)).toBeLessThan(WIDTH_PX)
  })
  it('has its playhead move without drawing anything anew', async () => {
    const { mounted, drawn, nowS } = await page()
    const before = drawn.mock.calls.length
    nowS.value = 12
    await nextTick()
    expect(mounted.find<HTMLElement>('.playhead').element.style.transform).toBe('translateX(120px)')
    expect(drawn).toHaveBeenCalledTimes(before)
  })
  it('has keys for what the wheel does', async () => {
    const { stack } = await page()
    const press = (key: string) =>
      laneKeys(() => stack.view)
        .find((k) => k.key === key)!
        .run()
    press('+')
    expect(stack.scale.value.pxPerS).toBeCloseTo(15, 6)
    press('-')
    press('a')
    expect(stack.view.isWhole.value).toBe(true)
    for (const key of laneKeys(() => null)) key.run()
  })
})

describe('a playhead on another axis', () => {
  it('is where that says, and hidden where there is no such place', async () => {
    const nowS = ref(10)
    const scale = { startS: 0, pxPerS: 2, widthPx: WIDTH_PX }
    const at = (s: number) => (s < 20 ? s + 30 : null)
    const head = mount(PlayHead, { props: { clock: { nowS }, scale, at } })
    await nextTick()
    const { style } = head.find<HTMLElement>('.playhead').element
    expect(style.transform).toBe('translateX(80px)')
    nowS.value = 25
    await nextTick()
    expect(style.display).toBe('none')
  })
})
