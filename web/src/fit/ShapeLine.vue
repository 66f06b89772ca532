<script setup lang="ts">
import { useAsks } from './useAsks'
import {
  linesOf,
  moved,
  withCorner,
  withoutCorner,
  wishesOf,
  type Lines,
  type Place,
} from '@/drawing/corners'
import { toPx, toS, type TimeScale } from '@/drawing/scale'
import { levelAt, levelPct, shapePath, type Wish } from '@/drawing/shape'
import { FLICKS_PER_S, flicksToSeconds, formatClock, framesToFlicks, type Rate } from '@/time'
import { computed, nextTick, onBeforeUnmount, ref } from 'vue'

/** How full the music is wished to be, over the fitted music: drawn by its corners, with the mouse or the keys. */
const props = defineProps<{ shape: Wish[]; scale: TimeScale; lengthFlicks: number; rate: Rate }>()
const { ask } = useAsks()
const AFTER_KEYS_MS = 400 // a run of keys is asked for once, and undone at once

const lane = ref<HTMLElement | null>(null)
const held = ref<Place | null>(null)
/** What is drawn and not yet what is asked for. */
const drawn = ref<Lines | null>(null)
const lines = computed(() => drawn.value ?? linesOf(props.shape))
const wishes = computed(() => (drawn.value ? wishesOf(drawn.value) : props.shape))
const corners = computed(() =>
  lines.value.flatMap((line, l) =>
    line.map((corner, c) => {
      const seconds = flicksToSeconds(corner.atFlicks)
      const words = `${Math.round(corner.level * 100)} % full at ${formatClock(seconds, 1)}`
      return { ...corner, place: [l, c] as Place, px: toPx(props.scale, seconds), words }
    }),
  ),
)

let waiting: ReturnType<typeof setTimeout> | undefined
async function askForIt(): Promise<void> {
  clearTimeout(waiting)
  const lines = drawn.value
  if (!lines) return
  const shape = wishesOf(lines)
  if (JSON.stringify(shape) !== JSON.stringify(props.shape))
    await ask({ shape: shape.length ? shape : undefined })
  if (drawn.value === lines) drawn.value = null
}
onBeforeUnmount(() => void askForIt())

function pointed(event: PointerEvent) {
  const box = lane.value!.getBoundingClientRect()
  const seconds = toS(props.scale, event.clientX - box.left)
  return {
    atFlicks: seconds * FLICKS_PER_S,
    level: levelAt((100 * (event.clientY - box.top)) / box.height),
  }
}
function hold(event: PointerEvent, place: Place): void {
  if (event.button !== 0) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held.value = place
}
/** A corner more, where the line was taken hold of. */
function breakLine(event: PointerEvent): void {
  const more = event.button === 0 && withCorner(lines.value, pointed(event).atFlicks)
  if (!more) return
  hold(event, more.place)
  drawn.value = more.lines
}
function follow(event: PointerEvent): void {
  if (held.value) drawn.value = moved(lines.value, held.value, pointed(event), props.lengthFlicks)
}
function letGo(): void {
  if (held.value) void askForIt()
  held.value = null
}
/** From corner to corner the keys go on; out of the drawing, they are done. */
function onLeave(event: FocusEvent): void {
  if (!lane.value?.contains(event.relatedTarget as Node | null)) void askForIt()
}
function giveUp(): void {
  held.value = drawn.value = null
}

const STEPS: Record<string, readonly [frames: number, level: number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 0.05],
  ArrowDown: [0, -0.05],
}
async function onKey(event: KeyboardEvent, place: Place): Promise<void> {
  const changed = byKey(event, place)
  if (!changed) return
  event.preventDefault()
  event.stopPropagation()
  drawn.value = changed.lines
  clearTimeout(waiting)
  waiting = setTimeout(askForIt, AFTER_KEYS_MS)
  await nextTick()
  lane.value?.querySelector<HTMLElement>(`[data-corner="${changed.place.join('.')}"]`)?.focus()
}
/** What a key makes of the lines, and the corner that the keys go on with. */
function byKey(event: KeyboardEvent, place: Place): { lines: Lines; place: Place } | null {
  const [line, corner] = place
  const [from, to] = [lines.value[line]![corner]!, lines.value[line]![corner + 1]]
  const step = STEPS[event.key]
  if (step) {
    const atFlicks = from.atFlicks + framesToFlicks(step[0] * (event.shiftKey ? 10 : 1), props.rate)
    const put = { atFlicks, level: from.level + step[1] }
    return { lines: moved(lines.value, place, put, props.lengthFlicks), place }
  }
  if (event.key === 'Delete' || event.key === 'Backspace')
    return { lines: withoutCorner(lines.value, place), place: [line, Math.max(0, corner - 1)] }
  const adds = event.key === 'Insert' || event.key === '+'
  return adds && to ? withCorner(lines.value, (from.atFlicks + to.atFlicks) / 2) : null
}
</script>

<template>
  <div ref="lane" class="shape" role="group" aria-label="Fullness that is wished" @focusout="onLeave">
    <svg :viewBox="`0 0 ${scale.widthPx} 100`" preserveAspectRatio="none">
      <path class="drawn" :d="shapePath(wishes, scale, lengthFlicks)" />
      <path
        class="hold"
        :d="shapePath(wishes, scale, lengthFlicks)"
        @pointerdown.stop="breakLine"
        @pointermove="follow"
        @pointerup="letGo"
        @pointercancel="giveUp"
      >
        <title>
          How full the music is wished to be, the fullest at the top. Drag the line: it gets a corner there.
        </title>
      </path>
    </svg>
    <div
      v-for="c in corners"
      v-show="c.atFlicks <= lengthFlicks"
      :key="c.place.join('.')"
      class="corner"
      role="slider"
      tabindex="0"
      aria-label="Corner of the fullness"
      aria-valuemin="0"
      aria-valuemax="100"
      :aria-valuenow="Math.round(c.level * 100)"
      :aria-valuetext="c.words"
      :data-corner="c.place.join('.')"
      :class="{ held: held?.join() === c.place.join() }"
      :style="{ left: `${c.px}px`, top: `${levelPct(c.level)}%` }"
      :title="`${c.words}. Drag it, or use the arrow keys; + adds a corner after it, Delete takes it away.`"
      @pointerdown.stop="hold($event, c.place)"
      @pointermove="follow"
      @pointerup="letGo"
      @pointercancel="giveUp"
      @keydown.esc="giveUp"
      @keydown="onKey($event, c.place)"
    />
  </div>
</template>

<style scoped>
.shape,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
path {
  fill: none;
  vector-effect: non-scaling-stroke;
}
.drawn {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-width: 1.5;
  stroke-dasharray: 5 4;
}
.hold {
  stroke: transparent;
  stroke-width: 11;
  pointer-events: stroke;
  cursor: move;
}
.corner {
  position: absolute;
  width: 12px;
  height: 12px;
  margin: -6px 0 0 -6px;
  border-radius: 2px;
  border: 2px solid rgb(var(--v-theme-on-surface));
  background: rgb(var(--v-theme-background));
  pointer-events: auto;
  cursor: move;
  touch-action: none;
}
.corner:focus-visible,
.corner:hover,
.corner.held {
  outline: none;
  background: rgb(var(--v-theme-primary));
}
</style>
