<script setup lang="ts">
import { frameMarks } from '@/drawing/spot'
import { strokes, toS, type TimeScale } from '@/drawing/scale'
import type { Rate, TimeUnit } from '@/time'
import { computed, ref } from 'vue'

/** The time axis of a picture; dragging along it scrubs. */
const props = defineProps<{
  scale: TimeScale
  rate: Rate
  startFrames: number
  lengthS: number
  unit: TimeUnit
}>()
const emit = defineEmits<{ scrub: [seconds: number] }>()
const ruler = ref<HTMLElement | null>(null)
const isScrubbing = ref(false)
const marks = computed(() => frameMarks(props.scale, props.rate, props.startFrames, props.unit))
const named = computed(() => marks.value.filter((m) => m.label))

function scrub(event: PointerEvent): void {
  if (!isScrubbing.value) return
  const px = event.clientX - (ruler.value?.getBoundingClientRect().left ?? 0)
  emit('scrub', Math.min(Math.max(0, toS(props.scale, px)), props.lengthS))
}
function begin(event: PointerEvent): void {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  isScrubbing.value = true
  scrub(event)
}
</script>

<template>
  <div
    ref="ruler"
    class="ruler"
    title="Drag to scrub"
    @pointerdown.stop="begin"
    @pointermove="scrub"
    @pointerup="isScrubbing = false"
    @pointercancel="isScrubbing = false"
  >
    <svg role="presentation">
      <path :d="strokes(marks, 18, 24) + strokes(named, 14, 18)" />
      <text v-for="m in named" :key="m.frames" :x="m.px + 4" y="14">{{ m.label }}</text>
    </svg>
  </div>
</template>

<style scoped>
.ruler {
  height: 24px;
  background: rgb(var(--v-theme-surface));
  cursor: col-resize;
}
svg {
  display: block;
  width: 100%;
  height: 24px;
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
