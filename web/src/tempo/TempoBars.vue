<script setup lang="ts">
import { barLines, beatsBetween, type Pulse } from '@/drawing/bars'
import type { TimeScale } from '@/drawing/scale'
import { computed } from 'vue'
import BarLines from './BarLines.vue'

/** The bars of a steady tempo over the lanes of the picture. */
const props = defineProps<{
  pulse: Pulse
  scale: TimeScale
  untilS: number
  fromPx?: number
  numbersPx?: number
  beatsPx?: number
}>()
const bars = computed(() => barLines(props.pulse, props.scale, props.untilS))
const beats = computed(() => beatsBetween(props.pulse, props.scale, props.untilS))
</script>

<template>
  <BarLines
    :bars="bars"
    :beats="beats"
    :label="`Bars at ${pulse.bpm} bpm`"
    :from-px="fromPx"
    :numbers-px="numbersPx"
    :beats-px="beatsPx"
  />
</template>
