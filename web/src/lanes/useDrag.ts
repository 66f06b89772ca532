import { ref } from 'vue'

/** Dragging something along the time axis: how far it is away while it is held, and where it went when it is let go. */
export function useDrag(done: (shiftPx: number) => void, leastPx = 2) {
  const shiftPx = ref<number | null>(null)
  let fromPx = 0

  function begin(event: PointerEvent): void {
    if (event.button !== 0) return
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    fromPx = event.clientX
    shiftPx.value = 0
  }
  function follow(event: PointerEvent): void {
    if (shiftPx.value !== null) shiftPx.value = event.clientX - fromPx
  }
  function end(): void {
    const moved = shiftPx.value ?? 0
    shiftPx.value = null
    if (Math.abs(moved) >= leastPx) done(moved)
  }
  function giveUp(): void {
    shiftPx.value = null
  }
  return { shiftPx, begin, follow, end, giveUp }
}
