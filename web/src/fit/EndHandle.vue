<script setup lang="ts">
import { toPx, type TimeScale } from '@/drawing/scale'
import { flicksToSeconds, formatClock, formatTimecode, framesToFlicks, nearestFrame, type Rate } from '@/time'
import { onArrows, useDrag } from '@/lanes/useDrag'
import { computed } from 'vue'

const LEAST_S = 0.04
const FLICKS_PER_MS = 705_600

const props = defineProps<{ scale: TimeScale; lengthFlicks: number; rate: Rate; heightPx: number }>()
const emit = defineEmits<{ tryLength: [flicks: number]; setLength: [flicks: number]; giveUp: [] }>()

const lengthS = computed(() => flicksToSeconds(props.lengthFlicks))
const px = computed(() => toPx(props.scale, lengthS.value))
const words = computed(() => formatTimecode(nearestFrame(lengthS.value, props.rate), props.rate))
let from = { seconds: 0, scale: props.scale }

/** Lengths set by hand lie on picture frames; with Alt held they do not. */
function lengthAt(shiftPx: number, event: PointerEvent): number {
  const seconds = Math.max(LEAST_S, from.seconds + shiftPx / from.scale.pxPerS)
  if (event.altKey) return Math.round(seconds * 1000) * FLICKS_PER_MS
  return framesToFlicks(Math.max(1, nearestFrame(seconds, props.rate)), props.rate)
}
const drag = useDrag((px, event) => emit('setLength', lengthAt(px, event)), {
  taken: () => (from = { seconds: lengthS.value, scale: props.scale }),
  over: (px, event) => {
    const flicks = lengthAt(px, event)
    if (flicks !== props.lengthFlicks) emit('tryLength', flicks)
  },
  givenUp: () => emit('giveUp'),
  leastPx: 1,
})
const isHeld = computed(() => drag.shiftPx.value !== null)
const nudge = onArrows((steps) => {
  const frames = nearestFrame(lengthS.value, props.rate) + steps
  emit('setLength', framesToFlicks(Math.max(1, frames), props.rate))
})
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
    :class="{ held: isHeld }"
    :style="{ transform: `translateX(${px}px)`, height: `${heightPx}px` }"
    :title="`End of the cue, ${words}. Drag it, or use the arrow keys (Shift: ten frames). With Alt it leaves the frames.`"
    @keydown.esc="drag.giveUp"
    @keydown="nudge"
    v-on="drag.on"
  >
    <span class="grip" />
    <span v-if="isHeld" class="tip figure">{{ words }} · {{ formatClock(lengthS, 2) }}</span>
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
