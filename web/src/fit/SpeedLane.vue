<script setup lang="ts">
import type { Plan } from '@/api/client'
import { hexOf } from '@/look/theme'
import { speedSteps } from '@/drawing/layout'
import { FIGURES_FONT } from '@/drawing/painters'
import { heldSpans, paintSpeeds, speedWords } from '@/drawing/speeds'
import { toS, type TimeScale } from '@/drawing/scale'
import { useCanvas } from '@/lanes/useCanvas'
import { formatClock } from '@/time'
import { computed, ref, toRef } from 'vue'

/** How much faster or slower than the track's own speed the music is, and where; what is under the pointer says its times. */
const props = defineProps<{ plan: Plan | null; bpm: number | null; scale: TimeScale; dark: boolean }>()
const canvas = ref<HTMLCanvasElement | null>(null)
const pointedS = ref<number | null>(null)
const speeds = computed(() => (props.plan ? speedSteps(props.plan) : []))
const spans = computed(() => (props.plan ? heldSpans(props.plan) : []))
const words = computed(() => {
  const at = pointedS.value
  const step = at === null ? undefined : speeds.value.find((s) => s.outInS <= at && at < s.outOutS)
  return step
    ? `${speedWords(step.changePct, props.bpm)}, from ${formatClock(step.outInS, 2)} to ${formatClock(step.outOutS, 2)}`
    : undefined
})
useCanvas(
  canvas,
  computed(() => props.dark),
  [speeds, toRef(() => props.scale), toRef(() => props.bpm)],
  (paper) =>
    paintSpeeds(paper, props.scale, speeds.value, spans.value, props.bpm, {
      bar: hexOf('secondary', props.dark),
      ink: hexOf('on-surface', props.dark),
    }),
  FIGURES_FONT,
)
</script>

<template>
  <div class="speed" role="img" aria-label="Speed lane" :title="words">
    <canvas
      ref="canvas"
      @pointermove="pointedS = toS(scale, $event.offsetX)"
      @pointerleave="pointedS = null"
    />
  </div>
</template>

<style scoped>
.speed {
  position: relative;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
