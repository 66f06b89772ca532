<script setup lang="ts">
import { hexOf } from '@/look/theme'
import { offInWords, type LandedHit } from '@/drawing/hits'
import type { Scales } from '@/drawing/layout'
import { inViewPx, toPx } from '@/drawing/scale'
import { paintThreads } from '@/drawing/ties'
import { useCanvas } from '@/lanes/useCanvas'
import { HIT_SIGNS, HIT_WORDS, WEIGHT_WORDS } from '@/words/spotting'
import { computed, ref } from 'vue'

/** Hits as threads through all lanes: straight to where each is asked for, then to the place of the track that meets it. */
const props = defineProps<{
  hits: LandedHit[]
  scales: Scales
  dark: boolean
  /** Ids of the hits that a bar is pinned to. */
  pinned?: readonly number[]
  /** Where the lane of the hits begins. */
  topPx: number
  fittedPx: number
  ribbonsPx: number
}>()
defineEmits<{ seek: [seconds: number] }>()

const FLAG_PX = 132
const LANE_PX = 24
const canvas = ref<HTMLCanvasElement | null>(null)
const isPinned = (hit: LandedHit) => !!props.pinned?.includes(hit.id)
const told = computed(() => props.hits.map((hit, i) => ({ ...hit, key: i, words: wordsOf(hit) })))
const seen = computed(() => told.value.filter((h) => inViewPx(props.scales.out, h.askedS, h.askedS, FLAG_PX)))
const lanes = computed(() => ({
  fromPx: props.topPx + LANE_PX,
  fittedPx: props.fittedPx,
  ribbonsPx: props.ribbonsPx,
}))
useCanvas(
  canvas,
  computed(() => props.dark),
  [seen, lanes],
  (paper) =>
    paintThreads(paper, props.scales, seen.value, lanes.value, {
      kept: hexOf('secondary', props.dark),
      missed: hexOf('warning', props.dark),
    }),
)

function wordsOf(hit: LandedHit): string {
  const what = `${hit.label || 'Hit'}, ${HIT_WORDS[hit.kind]}, ${WEIGHT_WORDS[hit.weight]}`
  const pinned = isPinned(hit) ? ', a bar is pinned to it' : ''
  return `${what}: ${hit.isKept ? '' : 'missed, '}${offInWords(hit)}${pinned}`
}
</script>

<template>
  <div class="threads"><canvas ref="canvas" /></div>
  <button
    v-for="h in seen"
    :key="h.key"
    class="flag"
    :class="[h.weight, { missed: !h.isKept, pinned: isPinned(h) }]"
    :style="{ top: `${topPx + 2}px`, transform: `translateX(${toPx(scales.out, h.askedS)}px)` }"
    :aria-label="h.words"
    :title="`${h.words}. Click to go there.`"
    @click.stop="$emit('seek', h.askedS)"
    @pointerdown.stop
  >
    <span class="sign">{{ HIT_SIGNS[h.kind] }}</span>{{ h.label }}
    <span v-if="!h.isKept">✕</span>
  </button>
</template>

<style scoped>
.threads {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
canvas {
  width: 100%;
  height: 100%;
}
.flag {
  position: absolute;
  left: 0;
  display: flex;
  align-items: center;
  gap: 5px;
  max-width: 132px;
  overflow: hidden;
  white-space: nowrap;
  font-size: 12px;
  line-height: 18px;
  padding: 0 7px 0 4px;
  border: 1px solid rgb(var(--v-theme-secondary));
  border-left-width: 3px;
  border-radius: 0 5px 5px 0;
  background: rgb(var(--v-theme-background));
}
.must.flag {
  background: rgb(var(--v-theme-secondary));
  color: rgb(var(--v-theme-background));
}
.nice.flag {
  border-style: dashed;
  border-left-style: solid;
}
.missed.flag {
  border-color: rgb(var(--v-theme-warning));
  background: rgb(var(--v-theme-background));
  color: rgb(var(--v-theme-warning));
}
.pinned.flag {
  box-shadow: 0 -3px rgb(var(--v-theme-primary));
}
.flag:focus-visible,
.flag:hover {
  z-index: 3;
  max-width: none;
  border-color: rgb(var(--v-theme-primary));
}
.sign {
  font-weight: 700;
  font-size: 11px;
}
</style>
