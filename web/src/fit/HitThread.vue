<script setup lang="ts">
import { offInWords, threadPath, type LandedHit } from '@/drawing/hits'
import type { Scales } from '@/drawing/layout'
import { toPx } from '@/drawing/scale'
import { HIT_SIGNS, HIT_WORDS, WEIGHT_WORDS } from '@/spot/sheet'
import { computed } from 'vue'

/** A hit as a thread through all lanes: straight to where it is asked for, then to the place of the track that meets it. */
const props = defineProps<{ hit: LandedHit; scales: Scales; fittedPx: number; ribbonsPx: number }>()
defineEmits<{ seek: [] }>()

const askedPx = computed(() => toPx(props.scales.out, props.hit.askedS))
const path = computed(() => {
  const { isKept, landedS, sourceS } = props.hit
  if (!isKept || landedS === null || sourceS === null) return ''
  const [from, to] = [toPx(props.scales.out, landedS), toPx(props.scales.source, sourceS)]
  return `${threadPath(from, to, props.fittedPx, props.fittedPx + props.ribbonsPx)}v14`
})
const words = computed(
  () =>
    `${props.hit.label || 'Hit'}, ${HIT_WORDS[props.hit.kind]}, ${WEIGHT_WORDS[props.hit.weight]}: ` +
    `${props.hit.isKept ? '' : 'missed, '}${offInWords(props.hit)}`,
)
</script>

<template>
  <svg class="thread" :class="{ missed: !hit.isKept }" role="presentation">
    <line :x1="askedPx" :x2="askedPx" y1="84" :y2="fittedPx" />
    <path v-if="path" :d="path" />
  </svg>
  <button
    class="flag"
    :class="[hit.weight, { missed: !hit.isKept }]"
    :style="{ transform: `translateX(${askedPx}px)` }"
    :aria-label="words"
    :title="`${words}. Click to go there.`"
    @click.stop="$emit('seek')"
    @pointerdown.stop
  >
    <span class="sign">{{ HIT_SIGNS[hit.kind] }}</span>{{ hit.label }}
    <span v-if="!hit.isKept">✕</span>
  </button>
</template>

<style scoped>
.thread {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
  fill: none;
  stroke: rgb(var(--v-theme-secondary));
}
.missed.thread {
  stroke: rgb(var(--v-theme-warning));
  stroke-dasharray: 4 4;
}
.flag {
  position: absolute;
  top: 62px;
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
