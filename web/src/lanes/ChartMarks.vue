<script setup lang="ts">
import type { Chart } from '@/api/client'
import { likelySpans, type MarkedSpan } from '@/drawing/chart'
import { toPx, type TimeScale } from '@/drawing/scale'
import { formatClock } from '@/time'
import { computed } from 'vue'

const props = defineProps<{ chart: Chart; scale: TimeScale }>()

const seconds = (samples: number) => samples / props.chart.rate
const voices = computed(() => likelySpans(props.chart, props.chart.voice))
const leads = computed(() =>
  likelySpans(
    props.chart,
    props.chart.lead.map((l, i) => (props.chart.voice[i]! >= 0.5 ? 0 : l)),
  ),
)
const trims = computed(() => {
  const { chart } = props
  const spans = [
    { startS: 0, endS: seconds(chart.trim_start_samples) },
    { startS: seconds(chart.trim_end_samples), endS: seconds(chart.n_samples) },
  ]
  return spans.filter((s) => s.endS - s.startS > 0.05)
})
const spans = computed(() => [
  ...leads.value.map((s) => ({ ...s, kind: 'lead', label: named('Lead', s) })),
  ...voices.value.map((s) => ({ ...s, kind: 'voice', label: named('Voice', s) })),
  ...trims.value.map((s) => ({ ...s, kind: 'trim', label: named('Not music: suggested trim', s) })),
])
const ringOut = computed(() => ({
  startS: seconds(props.chart.last_hit_samples),
  endS: seconds(props.chart.ring_out_end_samples),
}))
const points = computed(() => [
  { kind: 'opening', label: 'Opening', atS: seconds(props.chart.opening_samples) },
  { kind: 'lasthit', label: 'Last hit', atS: seconds(props.chart.last_hit_samples) },
])

function place(span: MarkedSpan): { left: string; width: string } {
  const left = toPx(props.scale, span.startS)
  return { left: `${left}px`, width: `${Math.max(1, toPx(props.scale, span.endS) - left)}px` }
}

function named(what: string, span: MarkedSpan): string {
  return `${what}, ${formatClock(span.startS, 1)} to ${formatClock(span.endS, 1)}`
}
</script>

<template>
  <div class="marks" role="group" aria-label="What was heard in the track">
    <span
      v-for="s in spans"
      :key="s.label"
      :class="s.kind"
      :style="place(s)"
      :title="s.label"
      role="img"
      :aria-label="s.label"
    />
    <span
      class="ringout"
      :style="place(ringOut)"
      :title="named('Ring-out', ringOut)"
      role="img"
      aria-label="Ring-out"
    />
    <span
      v-for="p in points"
      :key="p.kind"
      :class="p.kind"
      :style="{ left: `${toPx(scale, p.atS)}px` }"
      :title="`${p.label}, ${formatClock(p.atS, 2)}`"
      role="img"
      :aria-label="p.label"
    />
  </div>
</template>

<style scoped>
.marks {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}
.marks span {
  position: absolute;
  pointer-events: auto;
}
.voice,
.lead {
  top: 0;
  height: 5px;
}
.voice {
  background: rgb(var(--v-theme-on-surface));
  opacity: 0.85;
}
.lead {
  border-top: 2px dotted rgb(var(--v-theme-on-surface));
  opacity: 0.55;
}
.trim {
  top: 0;
  bottom: 0;
  background: repeating-linear-gradient(
    90deg,
    rgba(var(--v-theme-on-surface), 0.16) 0 1px,
    transparent 1px 5px
  );
}
.ringout {
  bottom: 0;
  height: 3px;
  background: linear-gradient(90deg, rgba(var(--v-theme-on-surface), 0.8), transparent);
}
.opening,
.lasthit {
  bottom: 0;
  width: 9px;
  height: 9px;
  background: rgb(var(--v-theme-on-surface));
}
.opening {
  clip-path: polygon(0 0, 100% 100%, 0 100%);
}
.lasthit {
  margin-left: -4px;
  clip-path: polygon(50% 0, 100% 100%, 0 100%);
}
</style>
