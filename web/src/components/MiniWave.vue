<script setup lang="ts">
import { peaksQuery } from '@/api/queries'
import { prepared } from '@/drawing/painters'
import { levelFor, rangeOf } from '@/drawing/peaks'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useTheme } from 'vuetify'

const props = defineProps<{ trackId: number; slotShare: number }>()
const WIDTH_PX = 284
const HEIGHT_PX = 26
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
  for (let px = 0; px < WIDTH_PX; px++) {
    const [low, high] = rangeOf(level, (px * total) / WIDTH_PX, ((px + 1) * total) / WIDTH_PX)
    paper.context.fillStyle = dark.value ? '#e8dfcf' : '#23262a'
    paper.context.globalAlpha = px < slotPx ? 0.6 : 0.28
    paper.context.fillRect(px, (HEIGHT_PX / 2) * (1 - high), 1, Math.max(1, ((high - low) * HEIGHT_PX) / 2))
  }
}
watch([peaks, canvas, dark, () => props.slotShare], paint, { flush: 'post', immediate: true })
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
