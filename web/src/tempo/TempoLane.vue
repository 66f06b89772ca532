<script setup lang="ts">
import type { Hit, MapEdit, Picture } from '@/api/client'
import { hexOf } from '@/look/theme'
import { paintBars } from '@/drawing/heardBars'
import { FIGURES_FONT } from '@/drawing/painters'
import { toPx, toS, type TimeScale } from '@/drawing/scale'
import { besideWords, mapBars, paintHeads, paintTempo, type MapBar } from '@/drawing/tempoLane'
import HeldBars from '@/lanes/HeldBars.vue'
import { useBarDrag } from '@/lanes/useBarDrag'
import { useCanvas } from '@/lanes/useCanvas'
import { framesToSeconds, nearestFrame } from '@/time'
import { computed, ref, toRef } from 'vue'
import type { useTempo } from './useTempo'

/** The tempo of the picture, bar by bar. A bar that is dragged to a hit, or to any frame, is held there; until it is let go that is tried. */
const props = defineProps<{
  tempo: ReturnType<typeof useTempo>
  picture: Picture
  hits: readonly Hit[]
  scale: TimeScale
  dark: boolean
}>()
const emit = defineEmits<{ pick: [atS: number] }>()
const { laid, seen, showsOwn, bar: fromBar } = props.tempo

const BARS_PX = 17
const canvas = ref<HTMLCanvasElement | null>(null)
const rate = computed(() => props.picture.rate)
const untilS = computed(() => framesToSeconds(props.picture.length_frames, rate.value))
const bars = computed(() => (seen.value ? mapBars(seen.value, untilS.value) : []))
const heldBeats = computed(() => new Set(showsOwn.value ? laid.map.value?.held.map((h) => h.beat) : []))
useCanvas(
  canvas,
  computed(() => props.dark),
  [bars, toRef(() => props.scale), heldBeats],
  (paper) => {
    const ink = hexOf('on-surface', props.dark)
    const { heightPx } = paper
    const line = hexOf('secondary', props.dark)
    const heads = [...heldBeats.value].map((beat) => seen.value?.at_s[beat] ?? 0)
    if (seen.value)
      paintTempo(paper, props.scale, seen.value, untilS.value, heightPx - BARS_PX, heads, { line, ink })
    paintBars(paper, props.scale, bars.value, (bar) => heldBeats.value.has(bar.index), {
      line: ink,
      ink,
      pin: hexOf('primary', props.dark),
    })
    const inBars = [...heldBeats.value].filter((beat) => seen.value?.beat_in_bar[beat])
    paintHeads(
      paper,
      props.scale,
      inBars.map((beat) => seen.value!.at_s[beat]!),
      hexOf('primary', props.dark),
    )
  },
  FIGURES_FONT,
)

/** Where a bar would go: to the hit that it is held over, or to the frame under the pointer. */
const frameOf = (now: { goal: Hit | null; px: number }) =>
  now.goal?.at_frames ??
  Math.min(Math.max(0, nearestFrame(toS(props.scale, now.px), rate.value)), props.picture.length_frames)
const holding = (now: { bar: MapBar; goal: Hit | null; px: number }): MapEdit => ({
  edit: 'hold',
  bar: now.bar.bar,
  beat: 1,
  at_frames: frameOf(now),
})
const drag = useBarDrag<MapBar, Hit>({
  bars: () => bars.value,
  goals: () => props.hits,
  goalS: (hit) => framesToSeconds(hit.at_frames, rate.value),
  scale: () => props.scale,
  mayTake: () => showsOwn.value,
  over: (now, before) => frameOf(now) !== frameOf(before) && laid.tryEdit(holding(now)),
  letGo: (now) => void laid.edit(holding(now)),
  press: (bar) => {
    fromBar.value = bar.bar
    emit('pick', bar.atS)
  },
  giveUp: laid.endTry,
})
const { held, pointed } = drag
const words = computed(() => {
  if (!held.value) return ''
  const { bar, goal } = held.value
  const where = goal ? `bar ${bar.bar} on ${goal.label || 'the hit'}` : `bar ${bar.bar}`
  if (laid.problem.value) return `${where}: cannot be had`
  return laid.isTrying.value ? `${where}: ${besideWords(laid.map.value!, bar.index)}` : where
})
const linePx = computed(() =>
  held.value ? toPx(props.scale, framesToSeconds(frameOf(held.value), rate.value)) : 0,
)
const title = computed(() => {
  if (!showsOwn.value) return 'Lay this tempo on the picture, and its bars can be moved.'
  return pointed.value
    ? `Bar ${pointed.value.bar}. Drag it to where it is to be; press it to change metre or tempo from it on.`
    : 'Zoom in until bars are apart to take hold of one.'
})
</script>

<template>
  <HeldBars
    aria-label="Tempo, bar by bar"
    :title="held ? undefined : title"
    :drag="drag"
    :can-take="showsOwn"
    :line-px="linePx"
    :width-px="scale.widthPx"
    :words="words"
    :is-off="!!laid.problem.value"
  >
    <canvas ref="canvas" />
  </HeldBars>
</template>
