<script setup lang="ts">
import type { Section } from '@/api/client'
import { peaksQuery } from '@/api/queries'
import { prepared } from '@/drawing/painters'
import { levelFor, rangeOf } from '@/api/peaks'
import { sectionColor } from '@/look/theme'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useTheme } from 'vuetify'

const props = defineProps<{ trackId: number; slotShare: number; sections: Section[]; nSamples: number }>()
const WIDTH_PX = 284
const HEIGHT_PX = 30
const WAVE_PX = 25 // the sections lie under it
const canvas = ref<HTMLCanvasElement | null>(null)
const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const { data: peaks } = useQuery(computed(() => peaksQuery(props.trackId)))

/** The whole track, and a line where the slot would end. */
function paint(): void {
  if (!canvas.value || !peaks.value) return
  const paper = prepared(canvas.value, WIDTH_PX, HEIGHT_PX, dark.value)
  if (!paper) return
  const total = peaks.value.levels[0]!.low.length * peaks.value.levels[0]!.samplesPerPoint
  const level = levelFor(peaks.value, total / WIDTH_PX)
  const slotPx = Math.round(WIDTH_PX * props.slotShare)
  for (const s of props.sections) {
    const [from, to] = [s.start_samples, s.end_samples].map((at) => (at / props.nSamples) * WIDTH_PX) as [
      number,
      number,
    ]
    paper.context.fillStyle = sectionColor(s.label, dark.value)
    paper.context.globalAlpha = 0.85
    paper.context.fillRect(from, HEIGHT_PX - 3, Math.max(1, to - from - 1), 3)
  }
  for (let px = 0; px < WIDTH_PX; px++) {
    const [low, high] = rangeOf(level, (px * total) / WIDTH_PX, ((px + 1) * total) / WIDTH_PX)
    paper.context.fillStyle = dark.value ? '#e8dfcf' : '#23262a'
    paper.context.globalAlpha = px < slotPx ? 0.6 : 0.28
    paper.context.fillRect(px, (WAVE_PX / 2) * (1 - high), 1, Math.max(1, ((high - low) * WAVE_PX) / 2))
  }
}
watch([peaks, canvas, dark, () => props.slotShare, () => props.sections], paint, {
  flush: 'post',
  immediate: true,
})
</script>

<template>
  <canvas
    ref="canvas"
    class="wave"
    :style="{ width: `${WIDTH_PX}px`, height: `${HEIGHT_PX}px` }"
    aria-hidden="true"
  />
</template>

<style scoped>
.wave {
  display: block;
  max-width: 100%;
}
</style>
