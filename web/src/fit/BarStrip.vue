<script setup lang="ts">
import type { Chart, HitChoices, Plan } from '@/api/client'
import { hexOf } from '@/app/theme'
import { canBePinned, choicesFor, eitherSideWords } from '@/drawing/choices'
import { barUnder, heardBars, paintBars, type HeardBar } from '@/drawing/heardBars'
import type { LandedHit } from '@/drawing/hits'
import { FIGURES_FONT } from '@/drawing/painters'
import { toPx, type TimeScale } from '@/drawing/scale'
import { useCanvas } from '@/lanes/useCanvas'
import { useEventListener } from '@vueuse/core'
import { computed, ref, toRef } from 'vue'
import { NEAR_S } from './usePinnedBars'

/**
 * The bars of the track where they are heard. One that is dragged to a hit is pinned to it; while it is held over the hit, all
 * lanes show what that does.
 */
const props = defineProps<{
  plan: Plan | null
  chart: Chart
  hits: LandedHit[]
  /** Of the fit that is shown: while a bar is held over a hit, of the one that is tried. */
  choices: HitChoices[]
  /** Samples of the track, near beats that are pinned to hits. */
  pinned: readonly number[]
  /** Why what is tried cannot be had. */
  problem: string
  scale: TimeScale
  dark: boolean
}>()
const emit = defineEmits<{
  tryPin: [hit: LandedHit, sourceSamples: number]
  pin: [hit: LandedHit, sourceSamples: number]
  giveUp: []
  seek: [seconds: number]
}>()

const SNAP_PX = 16
const LEAST_PX = 2 // less is a press, no drag
const canvas = ref<HTMLCanvasElement | null>(null)
/** The bar in hand, where it is, and the hit it is held over; what it was taken from stays as it was then. */
const held = ref<{ bar: HeardBar; fromPx: number; px: number; hit: LandedHit | null } | null>(null)
const isMoved = computed(() => !!held.value && Math.abs(held.value.px - held.value.fromPx) > LEAST_PX)
const pointed = ref<HeardBar | null>(null)
const bars = computed(() => (props.plan ? heardBars(props.plan, props.chart) : []))
const goals = computed(() => props.hits.filter(canBePinned))
const isPinned = (bar: HeardBar) =>
  props.pinned.some((at) => Math.abs(at - bar.sourceSamples) < NEAR_S * props.chart.rate)
useCanvas(
  canvas,
  computed(() => props.dark),
  [bars, toRef(() => props.scale), toRef(() => props.pinned)],
  (paper) =>
    paintBars(paper, props.scale, bars.value, isPinned, {
      line: hexOf('on-surface', props.dark),
      ink: hexOf('on-surface', props.dark),
      pin: hexOf('primary', props.dark),
    }),
  FIGURES_FONT,
)

const pxOf = (event: PointerEvent) =>
  event.clientX - (event.currentTarget as HTMLElement).getBoundingClientRect().left
const hitUnder = (px: number) =>
  goals.value.find((hit) => Math.abs(toPx(props.scale, hit.askedS) - px) <= SNAP_PX) ?? null

function begin(event: PointerEvent): void {
  const bar = event.button === 0 ? barUnder(bars.value, props.scale, pxOf(event)) : null
  if (!bar || !goals.value.length) return
  event.stopPropagation()
  event.preventDefault() // of choosing text
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = { bar, fromPx: pxOf(event), px: pxOf(event), hit: null }
}
function move(event: PointerEvent): void {
  if (!held.value) return void (pointed.value = barUnder(bars.value, props.scale, pxOf(event)))
  const { hit: before, ...same } = held.value
  const hit = hitUnder(pxOf(event))
  held.value = { ...same, px: pxOf(event), hit }
  if (hit && hit.id !== before?.id) emit('tryPin', hit, same.bar.sourceSamples)
  else if (!hit && before) emit('giveUp')
}
function end(): void {
  const [last, wasMoved] = [held.value, isMoved.value]
  held.value = null
  if (!last) return
  if (last.hit && wasMoved) emit('pin', last.hit, last.bar.sourceSamples)
  else if (!wasMoved) {
    emit('giveUp')
    emit('seek', last.bar.atS)
  }
}
function giveUp(): void {
  if (!held.value) return
  held.value = null
  emit('giveUp')
}

useEventListener(window, 'keydown', (event) => event.key === 'Escape' && giveUp())

/** What the bar in hand does where it is held. */
const words = computed(() => {
  if (!held.value) return ''
  const { bar, hit } = held.value
  if (!hit) return `bar ${bar.bar}`
  const where = `bar ${bar.bar} on ${hit.label || 'the hit'}`
  if (props.problem) return `${where}: cannot be had`
  const now = props.hits.find((h) => h.id === hit.id)
  const offered = choicesFor(props.choices, hit, props.chart.rate)
  const choice = offered?.choices.find((c) => Math.abs(c.source_samples - bar.sourceSamples) < 2)
  if (!now?.isKept || !choice || choice.source_samples !== offered?.source_samples)
    return `${where}: ${now && !now.isKept ? 'not within give' : '…'}`
  const said = eitherSideWords(choice)
  return said ? `${where}: ${said}` : where
})
const title = computed(() => {
  if (!goals.value.length) return undefined
  if (pointed.value) return `Bar ${pointed.value.bar} of the track. Drag it to a hit that it is to meet.`
  return bars.value.length ? 'Zoom in until bars are apart to take hold of one.' : undefined
})
</script>

<template>
  <div
    class="bars"
    role="group"
    aria-label="Bars of the track"
    :class="{ hold: pointed && goals.length, held }"
    :title="held ? undefined : title"
    @pointerdown="begin"
    @pointermove="move"
    @pointerup="end"
    @pointercancel="giveUp"
    @pointerleave="pointed = null"
  >
    <canvas ref="canvas" />
    <template v-if="held && isMoved">
      <span
        class="line"
        :style="{ transform: `translateX(${held.hit ? toPx(scale, held.hit.askedS) : held.px}px)` }"
      />
      <span
        class="tip figure"
        role="status"
        :class="{ left: held.px > scale.widthPx / 2, off: held.hit && (problem || words.endsWith('give')) }"
        :style="{ '--at': `${held.px}px` }"
        >{{ words }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.bars {
  position: relative;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  touch-action: none;
}
.hold {
  cursor: grab;
}
.held {
  cursor: grabbing;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.line {
  position: absolute;
  top: 0;
  left: -1px;
  width: 2px;
  height: 46px;
  background: rgb(var(--v-theme-primary));
  pointer-events: none;
  z-index: 4;
}
.tip {
  position: absolute;
  top: -31px;
  left: calc(var(--at) + 12px);
  z-index: 4;
  padding: 2px 8px;
  border-radius: 4px;
  white-space: nowrap;
  user-select: none;
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  font-size: 14px;
  pointer-events: none;
}
.tip.left {
  left: auto;
  right: calc(100% - var(--at) + 12px);
}
.tip.off {
  background: rgb(var(--v-theme-error));
  color: rgb(var(--v-theme-background));
}
</style>
