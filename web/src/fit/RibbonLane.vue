<script setup lang="ts">
import type { Plan } from '@/api/client'
import { hexOf } from '@/look/theme'
import type { Piece, Scales } from '@/drawing/layout'
import { paintRibbons, paintStitches, ribbonAt } from '@/drawing/ties'
import { useCanvas } from '@/lanes/useCanvas'
import { formatClock } from '@/time'
import { computed, ref, toRef } from 'vue'

/** Every piece of the fitted music, tied to where it comes from, and the seams between them; the one pointed at says its times. */
const props = defineProps<{ plan: Plan | null; pieces: Piece[]; scales: Scales; dark: boolean }>()
const canvas = ref<HTMLCanvasElement | null>(null)
const pointed = ref<Piece | null>(null)
const words = computed(() => {
  const p = pointed.value
  return p
    ? `${p.label}: ${formatClock(p.sourceInS, 2)} to ${formatClock(p.sourceOutS, 2)} of the track`
    : undefined
})
useCanvas(
  canvas,
  computed(() => props.dark),
  [toRef(() => props.pieces), toRef(() => props.scales), pointed],
  (paper) => {
    paintRibbons(paper, props.scales, props.pieces, pointed.value)
    if (!props.plan) return
    const colors = {
      ground: hexOf('background', props.dark),
      full: hexOf('primary', props.dark),
      bare: hexOf('on-surface', props.dark),
    }
    paintStitches(paper, props.scales.out, props.plan.seams, props.plan.rate, colors)
  },
)

function point(event: PointerEvent): void {
  const context = canvas.value?.getContext('2d')
  if (!context || !canvas.value) return
  const density = window.devicePixelRatio || 1 // which points of a path are counted in
  const at = { x: event.offsetX * density, y: event.offsetY * density }
  pointed.value = ribbonAt(context, props.scales, props.pieces, at, canvas.value.clientHeight)
}
</script>

<template>
  <div class="ribbons" role="img" aria-label="Where every passage comes from" :title="words">
    <canvas ref="canvas" @pointermove="point" @pointerleave="pointed = null" />
    <slot />
  </div>
</template>

<style scoped>
.ribbons {
  position: relative;
  min-height: 0;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
</style>
