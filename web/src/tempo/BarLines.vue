<script setup lang="ts">
import type { BarLine } from '@/drawing/bars'

/** Bar lines with their numbers, and beats between them, over lanes. */
withDefaults(
  defineProps<{
    bars: BarLine[]
    beats: number[]
    label: string
    hasNumbers?: boolean
    /** How far down lines begin, numbers stand, and beats are. */
    fromPx?: number
    numbersPx?: number
    beatsPx?: number
  }>(),
  { hasNumbers: true, fromPx: 24, numbersPx: 36, beatsPx: 108 },
)
</script>

<template>
  <svg class="bars" role="img" :aria-label="label">
    <line v-for="px in beats" :key="px" class="beat" :x1="px" :x2="px" :y1="beatsPx" :y2="beatsPx + 8" />
    <g v-for="b in bars" :key="b.bar" :transform="`translate(${b.px} 0)`">
      <line class="bar" :y1="fromPx" y2="100%" />
      <text v-if="hasNumbers && b.isNumbered" x="4" :y="numbersPx">{{ b.bar }}</text>
    </g>
  </svg>
</template>

<style scoped>
.bars {
  position: absolute;
  inset: 0 0 20px;
  width: 100%;
  height: calc(100% - 20px);
  pointer-events: none;
}
.bar {
  stroke: rgb(var(--v-theme-secondary));
  stroke-opacity: 0.45;
}
.beat {
  stroke: rgb(var(--v-theme-secondary));
  stroke-opacity: 0.4;
}
text {
  fill: rgb(var(--v-theme-secondary));
  font-size: 11px;
  font-weight: 600;
  paint-order: stroke;
  stroke: rgb(var(--v-theme-background));
  stroke-width: 3px;
  font-variant-numeric: tabular-nums;
}
</style>
