<script setup lang="ts">
import { toPx, type TimeScale } from '@/drawing/scale'
import { flicksToSeconds, formatClock, formatTimecode, framesToFlicks, nearestFrame, type Rate } from '@/time'
import { computed, ref } from 'vue'

const props = defineProps<{ scale: TimeScale; lengthFlicks: number; rate: Rate; heightPx: number }>()
const emit = defineEmits<{ tryLength: [flicks: number]; setLength: [flicks: number]; giveUp: [] }>()

const lengthS = computed(() => flicksToSeconds(props.lengthFlicks))
const px = computed(() => toPx(props.scale, lengthS.value))
const drag = ref<{ fromPx: number; fromS: number; scale: TimeScale } | null>(null)
const words = computed(() => formatTimecode(nearestFrame(lengthS.value, props.rate), props.rate))

/** Lengths set by hand lie on picture frames; with Alt held they do not. */
function dragged(event: PointerEvent): number {
  const { fromPx, fromS, scale } = drag.value!
  const seconds = Math.max(0.04, fromS + (event.clientX - fromPx) / scale.pxPerS)
  if (event.altKey) return Math.round(seconds * 1000) * 705_600
  return framesToFlicks(Math.max(1, nearestFrame(seconds, props.rate)), props.rate)
}

function begin(event: PointerEvent): void {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  drag.value = { fromPx: event.clientX, fromS: lengthS.value, scale: props.scale }
}

function move(event: PointerEvent): void {
  if (!drag.value) return
  const flicks = dragged(event)
  if (flicks !== props.lengthFlicks) emit('tryLength', flicks)
}

function end(event: PointerEvent): void {
  if (!drag.value) return
  const flicks = dragged(event)
  const isMoved = Math.abs(event.clientX - drag.value.fromPx) > 0
  drag.value = null
  if (isMoved) emit('setLength', flicks)
  else emit('giveUp')
}

function giveUp(): void {
  if (!drag.value) return
  drag.value = null
  emit('giveUp')
}

function nudge(event: KeyboardEvent, direction: number): void {
  const frames = nearestFrame(lengthS.value, props.rate) + direction * (event.shiftKey ? 10 : 1)
  emit('setLength', framesToFlicks(Math.max(1, frames), props.rate))
}
</script>

<template>
  <div
    class="handle"
    role="slider"
    tabindex="0"
    aria-label="End of the cue"
    :aria-valuenow="lengthS"
    aria-valuemin="0"
    :aria-valuetext="words"
    :class="{ held: drag }"
    :style="{ transform: `translateX(${px}px)`, height: `${heightPx}px` }"
    :title="`End of the cue, ${words}. Drag it, or use the arrow keys (Shift: ten frames). With Alt it leaves the frames.`"
    @pointerdown.stop="begin"
    @pointermove="move"
    @pointerup="end"
    @pointercancel="giveUp"
    @keydown.esc="giveUp"
    @keydown.right.prevent.stop="nudge($event, 1)"
    @keydown.left.prevent.stop="nudge($event, -1)"
  >
    <span class="grip" />
    <span v-if="drag" class="tip figure">{{ words }} · {{ formatClock(lengthS, 2) }}</span>
  </div>
</template>

<style scoped>
.handle {
  position: absolute;
  top: 0;
  left: -9px;
  width: 18px;
  cursor: ew-resize;
  touch-action: none;
}
.handle::before {
  content: '';
  position: absolute;
  left: 8px;
  top: 26px;
  bottom: 0;
  width: 2px;
  background: rgb(var(--v-theme-primary));
}
.grip {
  position: absolute;
  left: 2px;
  top: 8px;
  width: 14px;
  height: 18px;
  border-radius: 3px 3px 8px 8px;
  background: rgb(var(--v-theme-primary));
}
.handle:focus-visible,
.held {
  outline: none;
}
.handle:focus-visible .grip,
.held .grip {
  box-shadow: 0 0 0 3px rgba(var(--v-theme-primary), 0.45);
}
.tip {
  position: absolute;
  right: 22px;
  top: 4px;
  padding: 2px 8px;
  border-radius: 4px;
  white-space: nowrap;
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  font-size: 14px;
}
</style>
