<script setup lang="ts">
import { rulerMarks, strokes, type TimeScale } from '@/drawing/scale'
import { computed } from 'vue'

/** Minutes and seconds along a time axis; `hangs`: below what it measures. */
const props = defineProps<{ scale: TimeScale; hangs?: boolean }>()
const marks = computed(() => rulerMarks(props.scale))
const named = computed(() => marks.value.filter((m) => m.label))
</script>

<template>
  <svg class="ruler" :class="{ hangs }" role="presentation">
    <path :d="hangs ? strokes(marks, 0, 4) + strokes(named, 4, 6) : strokes(marks, 20, 26)" />
    <text v-for="m in named" :key="m.seconds" :x="m.px + 3" :y="hangs ? 15 : 16">{{ m.label }}</text>
  </svg>
</template>

<style scoped>
.ruler {
  display: block;
  width: 100%;
  height: 100%;
  overflow: hidden;
  background: rgb(var(--v-theme-surface));
}
path {
  fill: none;
  stroke: rgb(var(--v-theme-on-surface));
  stroke-opacity: 0.35;
}
text {
  fill: rgb(var(--v-theme-on-surface));
  font-size: 12px;
  font-variant-numeric: tabular-nums;
}
</style>
