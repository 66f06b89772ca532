<script setup lang="ts">
import { onArrows, useDrag } from '@/lanes/useDrag'
import { formatClock } from '@/time'
import { computed } from 'vue'

/** A point of the track that is dragged, or moved with the arrow keys; a double click gives it back to what was heard. */
const props = defineProps<{
  name: string
  seconds: number
  pxPerS: number
  px: number
  isSet: boolean
  row: number
  toLeft?: boolean
}>()
const emit = defineEmits<{ move: [seconds: number]; reset: [] }>()
const NUDGE_S = 0.01
const secondsAfter = (px: number) => props.seconds + px / props.pxPerS
const drag = useDrag((px) => emit('move', secondsAfter(px)))
const atS = computed(() => secondsAfter(drag.shiftPx.value ?? 0))
const isHeld = computed(() => drag.shiftPx.value !== null)

const nudge = onArrows((steps) => emit('move', props.seconds + steps * NUDGE_S))
</script>

<template>
  <div
    class="point"
    role="slider"
    tabindex="0"
    :aria-label="name"
    :aria-valuenow="seconds"
    :aria-valuetext="formatClock(atS, 2)"
    :class="{ held: isHeld, set: isSet, left: toLeft }"
    :style="{ transform: `translateX(${px + (drag.shiftPx.value ?? 0)}px)`, top: `${row * 20}px` }"
    :title="`${name}, ${formatClock(atS, 2)}${isSet ? ', set by hand' : ''}. Drag it, or use the arrow keys; a double click gives it back to what was heard.`"
    @dblclick="emit('reset')"
    @keydown.esc="drag.giveUp"
    @keydown.delete.prevent.stop="emit('reset')"
    @keydown="nudge"
    v-on="drag.on"
  >
    <span class="stem" />
    <span class="flag"
      >{{ name }}<span v-if="isHeld" class="figure">&nbsp;{{ formatClock(atS, 2) }}</span></span
    >
  </div>
</template>

<style scoped>
.point {
  position: absolute;
  left: 0;
  height: 20px;
  cursor: ew-resize;
  touch-action: none;
  white-space: nowrap;
  font-size: 12px;
  outline: none;
}
.stem {
  position: absolute;
  left: 0;
  top: 2px;
  width: 2px;
  height: 16px;
  background: rgba(var(--v-theme-on-surface), 0.7);
}
.flag {
  display: block;
  padding: 1px 6px;
  line-height: 18px;
  border-radius: 0 4px 4px 0;
  background: rgba(var(--v-theme-on-surface), 0.12);
}
.left .flag {
  transform: translateX(-100%);
  border-radius: 4px 0 0 4px;
}
.set .stem {
  background: rgb(var(--v-theme-primary));
}
.set .flag {
  color: rgb(var(--v-theme-primary));
}
.point:focus-visible .flag,
.held .flag {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
}
</style>
