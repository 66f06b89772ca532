<script setup lang="ts">
import type { TempoMap } from '@/api/client'
import { mapLines } from '@/drawing/bars'
import type { TimeScale } from '@/drawing/scale'
import { computed } from 'vue'
import BarLines from './BarLines.vue'

/** The bars of the picture's tempo map over its lanes. */
const props = defineProps<{ map: TempoMap; scale: TimeScale; untilS: number }>()
const lines = computed(() => mapLines(props.map, props.scale, props.untilS))
</script>

<template>
  <BarLines :bars="lines.bars" :beats="lines.beats" label="Bars of the tempo map" />
</template>
