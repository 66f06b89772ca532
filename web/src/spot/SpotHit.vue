<script setup lang="ts">
import type { Hit } from '@/api/client'
import { onArrows, useDrag } from '@/lanes/useDrag'
import { offWords } from '@/drawing/hits'
import { HIT_SIGNS, HIT_WORDS, WEIGHT_WORDS } from '@/words/spotting'
import { computed } from 'vue'

/** A hit on the lanes: a thread through all of them with its flag. Dragged, or moved with the arrow keys. */
const props = defineProps<{
  hit: Hit
  at: string
  leftPx: number
  widthPx: number
  pxPerFrame: number
  isSelected: boolean
  threadPx: number
  /** Flags that would cover each other lie in two rows. */
  row: number
  /** What the tempo that is seen makes of it. */
  landed?: { off_frames: number; is_met: boolean }
}>()
const emit = defineEmits<{
  select: [more: boolean]
  move: [byFrames: number, isDragged: boolean]
  remove: []
}>()
const drag = useDrag((px) => emit('move', Math.round(px / props.pxPerFrame), true), {
  taken: (event) => emit('select', event.shiftKey || event.ctrlKey),
})
const nudge = onArrows((frames) => emit('move', frames, false))
const words = computed(
  () =>
    `${props.hit.label || 'Hit'} at ${props.at}, ${HIT_WORDS[props.hit.kind]}, ${WEIGHT_WORDS[props.hit.weight]}`,
)
</script>

<template>
  <div
    class="hit"
    role="button"
    tabindex="0"
    :aria-label="words"
    :aria-pressed="isSelected"
    :class="[hit.weight, { selected: isSelected }]"
    :style="{ transform: `translate(${leftPx + (drag.shiftPx.value ?? 0)}px, ${row * 21}px)` }"
    :title="`${words}. Drag it, or use the arrow keys (Shift: ten frames); Delete takes it away.`"
    @focus="!isSelected && emit('select', false)"
    @keydown.esc="drag.giveUp"
    @keydown.delete.prevent.stop="emit('remove')"
    @keydown="nudge"
    v-on="drag.on"
  >
    <span class="thread" :style="{ top: `${-threadPx - row * 21}px` }" />
    <span v-if="hit.until_frames !== null" class="silence" :style="{ width: `${widthPx}px` }" />
    <span class="flag"
      ><span class="sign">{{ HIT_SIGNS[hit.kind] }}</span
      ><span
        v-if="landed"
        class="landed"
        :class="{ missed: !landed.is_met }"
        :title="`The beat is ${offWords(landed.off_frames)} frames off`"
        >{{ offWords(landed.off_frames) }}</span
      >{{ hit.label }}</span
    >
  </div>
</template>

<style scoped>
.hit {
  position: absolute;
  left: 0;
  top: 2px;
  cursor: ew-resize;
  touch-action: none;
  outline: none;
  font-size: 12px;
  white-space: nowrap;
}
.thread {
  position: absolute;
  left: 0;
  bottom: -4px;
  width: 1px;
  background: rgb(var(--v-theme-secondary));
  opacity: 0.8;
  pointer-events: none;
}
.flag {
  display: flex;
  align-items: center;
  gap: 5px;
  max-width: 150px;
  overflow: hidden;
  text-overflow: ellipsis;
  padding: 1px 8px 1px 4px;
  line-height: 17px;
  border: 1px solid rgb(var(--v-theme-secondary));
  border-left-width: 3px;
  border-radius: 0 5px 5px 0;
  background: rgb(var(--v-theme-background));
}
.must .flag {
  background: rgb(var(--v-theme-secondary));
  color: rgb(var(--v-theme-background));
}
.nice .flag {
  border-style: dashed;
  border-left-style: solid;
}
.sign {
  font-weight: 700;
  font-size: 11px;
}
.silence {
  position: absolute;
  left: 0;
  top: 17px;
  height: 5px;
  background: repeating-linear-gradient(90deg, rgb(var(--v-theme-secondary)) 0 3px, transparent 3px 7px);
}
.selected {
  z-index: 3;
}
.selected .flag,
.hit:focus-visible .flag {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: 0 0 0 2px rgba(var(--v-theme-primary), 0.6);
}
.selected .thread {
  background: rgb(var(--v-theme-primary));
  width: 2px;
}
.landed {
  margin-right: 5px;
  font-variant-numeric: tabular-nums;
  opacity: 0.75;
}
.landed.missed {
  padding: 0 3px;
  border-radius: 3px;
  opacity: 1;
  color: rgb(var(--v-theme-error));
  background: rgb(var(--v-theme-background));
}
</style>
