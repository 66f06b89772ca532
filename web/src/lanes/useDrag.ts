import { ref } from 'vue'

interface Drag {
  /** What is done with the first touch, whatever comes of it. */
  taken?: (event: PointerEvent) => void
  /** While it is held. */
  over?: (shiftPx: number, event: PointerEvent) => void
  /** It was let go where it was, or given up. */
  givenUp?: () => void
  /** Less is a press, no drag. */
  leastPx?: number
}

/**
 * Dragging something along the time axis: how far it is away while it is held, and where it went when it is let go. The handle
 * takes all of `on`; Escape gives up.
 */
export function useDrag(done: (shiftPx: number, event: PointerEvent) => void, of: Drag = {}) {
  const shiftPx = ref<number | null>(null)
  let fromPx = 0

  function begin(event: PointerEvent): void {
    event.stopPropagation()
    of.taken?.(event)
    if (event.button !== 0) return
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    fromPx = event.clientX
    shiftPx.value = 0
  }
  function follow(event: PointerEvent): void {
    if (shiftPx.value === null) return
    shiftPx.value = event.clientX - fromPx
    of.over?.(shiftPx.value, event)
  }
  function end(event: PointerEvent): void {
    if (shiftPx.value === null) return
    const moved = shiftPx.value
    shiftPx.value = null
    if (Math.abs(moved) >= (of.leastPx ?? 2)) done(moved, event)
    else of.givenUp?.()
  }
  function giveUp(): void {
    if (shiftPx.value === null) return
    shiftPx.value = null
    of.givenUp?.()
  }
  return {
    shiftPx,
    giveUp,
    on: { pointerdown: begin, pointermove: follow, pointerup: end, pointercancel: giveUp },
  }
}

/** Left and right as steps, ten at once with Shift: what a handle does with the arrow keys. */
export function onArrows(move: (steps: number, event: KeyboardEvent) => void) {
  return (event: KeyboardEvent): void => {
    const direction = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
    if (!direction) return
    event.preventDefault()
    event.stopPropagation()
    move(direction * (event.shiftKey ? 10 : 1), event)
  }
}
