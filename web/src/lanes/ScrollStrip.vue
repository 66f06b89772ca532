<script setup lang="ts">
import { endS, type TimeScale } from '@/drawing/scale'
import { computed, ref } from 'vue'

const props = defineProps<{ scale: TimeScale; wholeS: number }>()
const emit = defineEmits<{ scroll: [px: number] }>()
const lastPx = ref<number | null>(null)
const left = computed(() => (100 * props.scale.startS) / props.wholeS)
const width = computed(() => Math.min(100, (100 * (endS(props.scale) - props.scale.startS)) / props.wholeS))

function begin(event: PointerEvent): void {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  lastPx.value = event.clientX
}
function move(event: PointerEvent): void {
  if (lastPx.value === null) return
  const share = (event.clientX - lastPx.value) / Math.max(1, props.scale.widthPx)
  lastPx.value = event.clientX
  emit('scroll', share * props.wholeS * props.scale.pxPerS)
}
</script>

<template>
  <div class="strip" @pointerdown.stop>
    <div
      class="thumb"
      :style="{ left: `${left}%`, width: `${width}%` }"
      title="Drag to scroll; the wheel scrolls too"
      @pointerdown="begin"
      @pointermove="move"
      @pointerup="lastPx = null"
      @pointercancel="lastPx = null"
    />
  </div>
</template>

<style scoped>
.strip {
  position: relative;
  height: 20px;
  flex: none;
}
.thumb {
  position: absolute;
  top: 6px;
  height: 8px;
  min-width: 24px;
  border-radius: 4px;
  background: rgba(var(--v-theme-on-surface), 0.28);
  cursor: grab;
}
</style>
