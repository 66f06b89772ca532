<script setup lang="ts">
import type { Chart } from '@/api/client'
import type { ChartEdit } from './useCorrections'
import { barLines, beatTicks } from '@/drawing/grid'
import type { TimeScale } from '@/drawing/scale'
import { computed, ref } from 'vue'

/** Bar lines to take hold of, numbered, with the beats between them. */
const props = defineProps<{ chart: Chart; scale: TimeScale }>()
const emit = defineEmits<{ edit: [edit: ChartEdit] }>()
const bars = computed(() => barLines(props.chart, props.scale))
const beats = computed(() => beatTicks(props.chart, props.scale))

/** A bar line in the hand: where it was, and how far it was moved. */
const held = ref<{ at: number; fromPx: number; shiftPx: number } | null>(null)
function takeBar(event: PointerEvent, at: number): void {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = { at, fromPx: event.clientX, shiftPx: 0 }
}
function dragBar(event: PointerEvent): void {
  if (held.value) held.value.shiftPx = event.clientX - held.value.fromPx
}
function dropBar(): void {
  const bar = held.value
  held.value = null
  if (!bar || Math.abs(bar.shiftPx) < 2) return
  const to = Math.round(bar.at + (bar.shiftPx / props.scale.pxPerS) * props.chart.rate)
  emit('edit', { kind: 'move_bar', from_samples: bar.at, to_samples: Math.max(0, to) })
}
</script>

<template>
  <div class="bars" role="group" aria-label="Bar lines">
    <span v-for="(b, i) in beats" :key="`b${i}`" class="tick" :style="{ left: `${b}px` }" />
    <span
      v-for="b in bars"
      :key="b.at"
      class="line figure"
      :class="{ pinned: b.isPinned, held: held?.at === b.at }"
      :style="{ transform: `translateX(${b.px + (held?.at === b.at ? held.shiftPx : 0)}px)` }"
      :title="
        b.isPinned ? 'Pinned here; a double click frees it' : 'Drag this bar line; what is pinned stays'
      "
      @pointerdown.stop="takeBar($event, b.at)"
      @pointermove="dragBar"
      @pointerup="dropBar"
      @pointercancel="held = null"
      @dblclick="b.isPinned && emit('edit', { kind: 'free_bar', at_samples: b.at })"
      >{{ b.number ?? '' }}</span
    >
  </div>
</template>

<style scoped>
.bars {
  position: relative;
  height: 26px;
  flex: none;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.tick {
  position: absolute;
  bottom: 0;
  width: 1px;
  height: 6px;
  background: rgba(var(--v-theme-on-surface), 0.45);
}
.line {
  position: absolute;
  left: -5px;
  top: 0;
  height: 26px;
  min-width: 11px;
  padding-left: 9px;
  font-size: 12px;
  line-height: 20px;
  cursor: ew-resize;
  touch-action: none;
}
.line::before {
  content: '';
  position: absolute;
  left: 5px;
  top: 4px;
  bottom: 0;
  width: 1px;
  background: rgba(var(--v-theme-on-surface), 0.8);
}
.line.pinned::before,
.line.held::before {
  width: 3px;
  left: 4px;
  background: rgb(var(--v-theme-primary));
}
</style>
