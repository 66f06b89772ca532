import { barUnder, type Bar } from '@/drawing/heardBars'
import { toPx, type TimeScale } from '@/drawing/scale'
import { useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'

export interface Held<B extends Bar, Goal> {
  bar: B
  /** Where the bar was taken, and where it is now. */
  fromPx: number
  px: number
  /** What it is held over. */
  goal: Goal | null
}

const SNAP_PX = 16
const LEAST_PX = 2 // less is a press, no drag

/** A bar that is taken in hand, held over one of some goals or beside them, and let go there. What is in hand stays as it was. */
export function useBarDrag<B extends Bar, Goal extends { id: number | null }>(of: {
  bars: () => readonly B[]
  goals: () => readonly Goal[]
  goalS: (goal: Goal) => number
  scale: () => TimeScale
  mayTake: () => boolean
  over: (held: Held<B, Goal>, before: Held<B, Goal>) => void
  letGo: (held: Held<B, Goal>) => void
  press: (bar: B) => void
  giveUp: () => void
}) {
  const held = shallowRef<Held<B, Goal> | null>(null)
  const pointed = shallowRef<B | null>(null)
  const isMoved = computed(() => !!held.value && Math.abs(held.value.px - held.value.fromPx) > LEAST_PX)
  const wasMoved = ref(false)
  let besidePx = 0 // of the bar the hand took hold

  const pxOf = (event: PointerEvent) =>
    event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left
  const goalUnder = (px: number) =>
    of.goals().find((goal) => Math.abs(toPx(of.scale(), of.goalS(goal)) - px) <= SNAP_PX) ?? null

  function begin(event: PointerEvent): void {
    const bar = event.button === 0 ? barUnder(of.bars(), of.scale(), pxOf(event)) : null
    if (!bar || !of.mayTake()) return
    event.stopPropagation()
    event.preventDefault() // of choosing text
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    wasMoved.value = false
    const barPx = toPx(of.scale(), bar.atS)
    besidePx = pxOf(event) - barPx
    held.value = { bar, fromPx: barPx, px: barPx, goal: null }
  }
  function move(event: PointerEvent): void {
    if (!held.value) return void (pointed.value = barUnder(of.bars(), of.scale(), pxOf(event)))
    const before = held.value
    const px = pxOf(event) - besidePx
    held.value = { ...before, px, goal: goalUnder(px) }
    wasMoved.value ||= isMoved.value
    if (wasMoved.value) of.over(held.value, before)
  }
  function end(): void {
    const last = held.value
    held.value = null
    if (!last) return
    if (wasMoved.value) return of.letGo(last)
    of.giveUp()
    of.press(last.bar)
  }
  function giveUp(): void {
    if (!held.value) return
    held.value = null
    of.giveUp()
  }
  useEventListener(window, 'keydown', (event) => event.key === 'Escape' && giveUp())

  return {
    held,
    pointed,
    isMoved,
    on: {
      pointerdown: begin,
      pointermove: move,
      pointerup: end,
      pointercancel: giveUp,
      pointerleave: () => (pointed.value = null),
    },
  }
}
