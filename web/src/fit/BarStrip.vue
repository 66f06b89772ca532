<script setup lang="ts">
import type { Chart, HitChoices, Plan } from '@/api/client'
import { hexOf } from '@/look/theme'
import { canBePinned, choicesFor, eitherSideWords } from '@/words/choices'
import { heardBars, paintBars, type HeardBar } from '@/drawing/heardBars'
import type { LandedHit } from '@/drawing/hits'
import { FIGURES_FONT } from '@/drawing/painters'
import { toPx, type TimeScale } from '@/drawing/scale'
import HeldBars from '@/lanes/HeldBars.vue'
import { useBarDrag } from '@/lanes/useBarDrag'
import { useCanvas } from '@/lanes/useCanvas'
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

const canvas = ref<HTMLCanvasElement | null>(null)
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

const drag = useBarDrag<HeardBar, LandedHit>({
  bars: () => bars.value,
  goals: () => goals.value,
  goalS: (hit) => hit.askedS,
  scale: () => props.scale,
  mayTake: () => goals.value.length > 0,
  over: (now, before) => {
    if (now.goal && now.goal.id !== before.goal?.id) emit('tryPin', now.goal, now.bar.sourceSamples)
    else if (!now.goal && before.goal) emit('giveUp')
  },
  letGo: ({ goal, bar }) => goal && emit('pin', goal, bar.sourceSamples),
  press: (bar) => emit('seek', bar.atS),
  giveUp: () => emit('giveUp'),
})

const { held, pointed } = drag

/** What the bar in hand does where it is held. */
const words = computed(() => {
  if (!held.value) return ''
  const { bar, goal: hit } = held.value
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
  <HeldBars
    aria-label="Bars of the track"
    :title="held ? undefined : title"
    :drag="drag"
    :can-take="goals.length > 0"
    :line-px="held?.goal ? toPx(scale, held.goal.askedS) : (held?.px ?? 0)"
    :width-px="scale.widthPx"
    :words="words"
    :is-off="!!held?.goal && (!!problem || words.endsWith('give'))"
  >
    <canvas ref="canvas" />
  </HeldBars>
</template>
