<script setup lang="ts">
import type { Seam } from '@/api/client'
import { gradeInWords, smoothnessInWords } from '@/drawing/seams'
import { formatClock } from '@/time'
import { computed } from 'vue'

const props = defineProps<{ seam: Seam; number: number; rate: number; x: number; y: number }>()
defineEmits<{ hear: [] }>()

/** Arms in the order they fill: four for even, two for faint, none for plain. */
const ARMS = [
  [-7, -7],
  [7, 7],
  [7, -7],
  [-7, 7],
]
const filled = computed(() => ({ even: 4, faint: 2, plain: 0 })[props.seam.grade])
const words = computed(
  () =>
    `Seam ${props.number} at ${formatClock(props.seam.out_samples / props.rate, 2)}, ${gradeInWords(props.seam)}: ` +
    `smoother than ${smoothnessInWords(props.seam)}${props.seam.reason ? `; ${props.seam.reason}` : ''}`,
)
</script>

<template>
  <g
    class="stitch"
    role="button"
    tabindex="0"
    :aria-label="words"
    :transform="`translate(${x} ${y})`"
    @click.stop="$emit('hear')"
    @keydown.enter.prevent="$emit('hear')"
    @pointerdown.stop
  >
    <title>{{ words }}. Click to hear two bars around it.</title>
    <circle r="14" class="touch" />
    <line
      v-for="([ax, ay], i) in ARMS"
      :key="i"
      x1="0"
      y1="0"
      :x2="ax"
      :y2="ay"
      :class="i < filled ? 'full' : 'bare'"
    />
  </g>
</template>

<style scoped>
.stitch {
  cursor: pointer;
}
.touch {
  fill: rgb(var(--v-theme-background));
  fill-opacity: 0.75;
  stroke: transparent;
}
.stitch:hover .touch,
.stitch:focus-visible .touch {
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 2;
}
.stitch:focus {
  outline: none;
}
line {
  stroke-linecap: round;
}
.full {
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 4;
}
.bare {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-width: 1.3;
  stroke-dasharray: 2 2.4;
}
</style>
