import { describe, expect, it, vi } from 'vitest'
import { useDrag } from './useDrag'

describe('a drag', () => {
  it('says where it went once it is let go, and nothing of a mere press', () => {
    const done = vi.fn()
    const drag = useDrag(done)
    const at = (clientX: number) =>
      ({
        button: 0,
        clientX,
        pointerId: 1,
        stopPropagation: vi.fn(),
        currentTarget: { setPointerCapture: () => undefined },
      }) as never
    drag.on.pointerdown(at(10))
    drag.on.pointermove(at(11))
    drag.on.pointerup(at(11))
    expect(done).not.toHaveBeenCalled()
    drag.on.pointerdown(at(10))
    drag.on.pointermove(at(42))
    expect(drag.shiftPx.value).toBe(32)
    drag.on.pointerup(at(42))
    expect(done).toHaveBeenCalledWith(32, expect.anything())
  })
})
