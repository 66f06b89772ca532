<script setup lang="ts">
import type { Chart } from '@/api/client'
import type { ChartEdit } from '@/desks/useCorrections'
import { useDrag } from '@/lanes/useDrag'
import { barLines, beatTicks } from '@/drawing/grid'
import type { TimeScale } from '@/drawing/scale'
import { computed, ref } from 'vue'

/** Bar lines to take hold of, numbered, with the beats between them. */
const props = defineProps<{ chart: Chart; scale: TimeScale }>()
const emit = defineEmits<{ edit: [edit: ChartEdit] }>()
const bars = computed(() => barLines(props.chart, props.scale))
const beats = computed(() => beatTicks(props.chart, props.scale))

/** The bar line in the hand, by where it was. */
const held = ref<number | null>(null)
const drag = useDrag((px) => {
  const from = held.value!
  const to = Math.round(from + (px / props.scale.pxPerS) * props.chart.rate)
  emit('edit', { kind: 'move_bar', from_samples: from, to_samples: Math.max(0, to) })
})
const shiftOf = (at: number) => (held.value === at ? drag.shiftPx.value : null)
</script>

<template>
  <div class="bars" role="group" aria-label="Bar lines">
    <span v-for="(b, i) in beats" :key="`b${i}`" class="tick" :style="{ left: `${b}px` }" />
    <span
      v-for="b in bars"
      :key="b.at"
      class="line figure"
      :class="{ pinned: b.isPinned, held: shiftOf(b.at) !== null }"
      :style="{ transform: `translateX(${b.px + (shiftOf(b.at) ?? 0)}px)` }"
      :title="
        b.isPinned ? 'Pinned here; a double click frees it' : 'Drag this bar line; what is pinned stays'
      "
      @pointerdown.capture="held = b.at"
      v-on="drag.on"
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
