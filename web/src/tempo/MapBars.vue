<script setup lang="ts">
import { mapLines, type MapBeats } from '@/drawing/bars'
import type { TimeScale } from '@/drawing/scale'
import { computed } from 'vue'
import BarLines from './BarLines.vue'

/** The bars of a tempo over the lanes of the picture. */
const props = withDefaults(
  defineProps<{
    map: MapBeats
    label: string
    scale: TimeScale
    untilS: number
    hasNumbers?: boolean
    fromPx?: number
    numbersPx?: number
    beatsPx?: number
  }>(),
  { hasNumbers: true, fromPx: undefined, numbersPx: undefined, beatsPx: undefined },
)
const lines = computed(() => mapLines(props.map, props.scale, props.untilS))
</script>

<template>
  <BarLines
    :bars="lines.bars"
    :beats="lines.beats"
    :label="label"
    :has-numbers="hasNumbers"
    :from-px="fromPx"
    :numbers-px="numbersPx"
    :beats-px="beatsPx"
  />
</template>
