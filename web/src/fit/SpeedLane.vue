<script setup lang="ts">
import type { Plan } from '@/api/client'
import { speedSteps } from '@/drawing/layout'
import { toPx, type TimeScale } from '@/drawing/scale'
import { formatClock } from '@/time'
import { computed } from 'vue'

/** How much faster or slower than the track's own speed the music is, and where. */
const props = defineProps<{ plan: Plan | null; scale: TimeScale }>()
const speeds = computed(() => (props.plan ? speedSteps(props.plan) : []))
const mostPct = computed(() => Math.max(1, ...speeds.value.map((s) => Math.abs(s.changePct))))
</script>

<template>
  <svg class="speed" aria-label="Speed lane">
    <line class="zero" x1="0" x2="100%" y1="17" y2="17" />
    <g v-for="s in speeds" :key="s.outInS">
      <title>
        {{ s.changePct.toFixed(2) }} % from {{ formatClock(s.outInS, 2) }} to
        {{ formatClock(s.outOutS, 2) }}
      </title>
      <rect
        :x="toPx(scale, s.outInS)"
        :width="Math.max(1, toPx(scale, s.outOutS) - toPx(scale, s.outInS))"
        :y="s.changePct > 0 ? 17 - (s.changePct / mostPct) * 13 : 17"
        :height="Math.max(1, (Math.abs(s.changePct) / mostPct) * 13)"
      />
      <text
        v-if="toPx(scale, s.outOutS) - toPx(scale, s.outInS) > 60 && Math.abs(s.changePct) > 0.004"
        :x="Math.max(4, toPx(scale, s.outInS) + 4)"
        y="12"
      >
        {{ s.changePct > 0 ? '+' : '−' }}{{ Math.abs(s.changePct).toFixed(2) }} %
      </text>
    </g>
  </svg>
</template>

<style scoped>
.speed {
  display: block;
  width: 100%;
  height: 34px;
  flex: none;
  overflow: hidden;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.zero {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-opacity: 0.35;
}
.speed rect {
  fill: rgb(var(--v-theme-secondary));
  fill-opacity: 0.75;
}
text {
  fill: rgb(var(--v-theme-on-surface));
  font-size: 12px;
  font-variant-numeric: tabular-nums;
}
</style>
