<script setup lang="ts">
import type { Cue } from '@/api/client'
import { onArrows, useDrag } from '@/lanes/useDrag'
import { cueColour, STATUS_WORDS, type CueStatus } from '@/words/spotting'
import { computed } from 'vue'

/** A cue's slot on the lanes: dragged whole, or by one of its ends; with the arrow keys too. */
const props = defineProps<{
  cue: Cue
  trackTitle: string
  times: string
  leftPx: number
  widthPx: number
  row: number
  pxPerFrame: number
  isSelected: boolean
  dark: boolean
}>()
const emit = defineEmits<{
  select: []
  /** The start, the end, or both, later by frames. */
  change: [side: 'start' | 'end' | 'both', byFrames: number]
  remove: []
}>()
const frames = (px: number) => Math.round(px / props.pxPerFrame)
const whole = useDrag((px) => emit('change', 'both', frames(px)), { taken: () => emit('select') })
const start = useDrag((px) => emit('change', 'start', frames(px)))
const end = useDrag((px) => emit('change', 'end', frames(px)))
const left = computed(() => props.leftPx + (whole.shiftPx.value ?? 0) + (start.shiftPx.value ?? 0))
const width = computed(() =>
  Math.max(4, props.widthPx - (start.shiftPx.value ?? 0) + (end.shiftPx.value ?? 0)),
)
const words = computed(() =>
  [
    `${props.cue.number} ${props.cue.name}`,
    props.times,
    props.trackTitle || 'no track yet',
    STATUS_WORDS[props.cue.status as CueStatus],
    props.cue.look_again ? 'the picture changed under it' : '',
  ]
    .filter(Boolean)
    .join(', '),
)

const nudge = onArrows((steps, { altKey }) => emit('change', altKey ? 'end' : 'both', steps))
</script>

<template>
  <div
    class="cue"
    role="button"
    tabindex="0"
    :aria-label="`Cue ${words}`"
    :aria-pressed="isSelected"
    :class="{ selected: isSelected }"
    :style="{
      transform: `translateX(${left}px)`,
      width: `${width}px`,
      top: `${2 + row * 26}px`,
      '--cue': cueColour(cue.colour, dark),
    }"
    :title="`${words}. Drag it or its ends; arrow keys move it, with Alt its end.`"
    @focus="!isSelected && emit('select')"
    @keydown.delete.prevent.stop="emit('remove')"
    @keydown="nudge"
    v-on="whole.on"
  >
    <span class="end" v-on="start.on" />
    <span v-if="width > 26" class="words"
      ><b>{{ cue.number }}</b> {{ cue.name }}
      <span class="quiet">{{ trackTitle }}</span>
    </span>
    <span v-if="cue.look_again" class="again" title="The picture changed under this cue: look at it again"
      >!</span
    >
    <span class="end right" v-on="end.on" />
  </div>
</template>

<style scoped>
.cue {
  position: absolute;
  left: 0;
  height: 24px;
  display: flex;
  align-items: center;
  overflow: hidden;
  border-radius: 4px;
  background: color-mix(in srgb, var(--cue) 32%, rgb(var(--v-theme-background)));
  border: 1px solid var(--cue);
  cursor: grab;
  touch-action: none;
  outline: none;
  font-size: 13px;
}
.words {
  flex: 1;
  min-width: 0;
  padding: 0 10px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.end {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  width: 7px;
  cursor: ew-resize;
  background: var(--cue);
  opacity: 0.8;
}
.right {
  left: auto;
  right: 0;
}
.again {
  flex: none;
  margin-right: 12px;
  padding: 0 7px;
  border-radius: 9px;
  font-weight: 700;
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
}
.selected,
.cue:focus-visible {
  box-shadow: inset 0 0 0 1px rgb(var(--v-theme-primary));
  border-color: rgb(var(--v-theme-primary));
}
</style>
