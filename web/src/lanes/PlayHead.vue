<script setup lang="ts">
import { toPx, type TimeScale } from '@/drawing/scale'
import { ref, watchEffect } from 'vue'
import type { LaneClock } from './useLaneStack'

/** Moves by itself: a frame of playing changes one style and draws nothing anew. */
const props = defineProps<{
  clock: LaneClock
  scale: TimeScale
  /** Where it is on an axis that is not the clock's own; hidden where there is no such place. */
  at?: (nowS: number) => number | null
}>()
const head = ref<HTMLElement | null>(null)

watchEffect(
  () => {
    const now = props.clock.nowS.value
    const seconds = props.at ? props.at(now) : now
    if (!head.value) return
    head.value.style.display = seconds === null ? 'none' : ''
    if (seconds !== null) head.value.style.transform = `translateX(${toPx(props.scale, seconds)}px)`
  },
  { flush: 'post' },
)
</script>

<template>
  <div ref="head" class="playhead" />
</template>

<style scoped>
.playhead {
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 2px;
  margin-left: -1px;
  z-index: 4;
  background: rgb(var(--v-theme-error));
  pointer-events: none;
  will-change: transform;
}
</style>
