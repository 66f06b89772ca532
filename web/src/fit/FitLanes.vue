<script setup lang="ts">
import type { Chart, HitChoices, Plan, Seam } from '@/api/client'
import { howSure, tempoAndMeter } from '@/drawing/chart'
import type { LandedHit } from '@/drawing/hits'
import { heardAt, pieces as piecesOf, sourceAt } from '@/drawing/layout'
import type { Peaks } from '@/api/peaks'
import type { Wish } from '@/drawing/shape'
import ChartMarks from '@/lanes/ChartMarks.vue'
import ClockRuler from '@/lanes/ClockRuler.vue'
import LaneStack from '@/lanes/LaneStack.vue'
import PlayHead from '@/lanes/PlayHead.vue'
import { useLaneStack, type Lane, type LaneClock } from '@/lanes/useLaneStack'
import { flicksToSeconds, type Rate } from '@/time'
import { computed, ref, toRef } from 'vue'
import { useTheme } from 'vuetify'
import BarStrip from './BarStrip.vue'
import EndHandle from './EndHandle.vue'
import HitThreads from './HitThreads.vue'
import RibbonLane from './RibbonLane.vue'
import SeamStitches from './SeamStitches.vue'
import ShapeLine from './ShapeLine.vue'
import SpeedLane from './SpeedLane.vue'
import { usePainting } from './usePainting'
import type { Bars } from './usePinnedBars'
import { useSourceView } from './useSourceView'

const props = defineProps<{
  plan: Plan | null
  hits: LandedHit[]
  chart: Chart
  peaks: Peaks
  rate: Rate
  lengthFlicks: number
  trackTitle: string
  clock: LaneClock
  isStale: boolean
  /** As long as the slot is: what is shown while its end is dragged. */
  slotFlicks: number
  shape: Wish[]
  choices: HitChoices[]
  pinned: Bars
  /** Then a tempo map says where its bars are. */
  followsMap: boolean
  /** Why what is tried just now cannot be had. */
  problem: string
}>()
const ROOM = 1.25 // of the slot: there is where its end can be dragged to
const RULER_PX = 26
const SPEED_PX = 34
const BARS_PX = 22
const emit = defineEmits<{
  seek: [seconds: number]
  tryLength: [flicks: number]
  setLength: [flicks: number]
  tryPin: [hit: LandedHit, sourceSamples: number]
  pin: [hit: LandedHit, sourceSamples: number]
  giveUp: []
  hearSeam: [seam: Seam]
}>()

const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const fitted = ref<HTMLCanvasElement | null>(null)
const source = ref<HTMLCanvasElement | null>(null)

const lengthS = computed(() => flicksToSeconds(props.lengthFlicks))
const trackS = computed(() => props.chart.n_samples / props.chart.rate)
/** A fit that is shown because nothing else could be had may be longer than the slot. */
const staleS = computed(() => (props.isStale && props.plan ? props.plan.target_samples / props.plan.rate : 0))
const wholeS = computed(() => Math.max(1, ROOM * Math.max(flicksToSeconds(props.slotFlicks), staleS.value)))
const pieces = computed(() => (props.plan ? piecesOf(props.plan, props.chart) : []))
const lanes = computed<Lane[]>(() => [
  { key: 'time', name: 'Time', px: RULER_PX },
  {
    key: 'speed',
    name: 'Speed',
    px: SPEED_PX,
    title: "How much faster or slower than the track's own speed, and the tempo that makes",
  },
  ...(props.chart.free_time
    ? []
    : [
        {
          key: 'bars',
          name: 'Bars',
          px: BARS_PX,
          title: 'Bars of the track where they are heard; drag one to a hit',
        },
      ]),
  ...(props.hits.length ? [{ key: 'hits', name: 'Hits', px: 24 }] : []),
  { key: 'fitted', name: 'Fitted music', share: 2 },
  { key: 'ribbons', share: 2.4 },
  { key: 'source', share: 2, title: howSure(props.chart) },
  { key: 'source-time', px: 22 },
])
/** Where the fitted music begins: below the lanes of so many pixels. */
const fittedFromPx = computed(() => {
  const above = lanes.value.slice(
    0,
    lanes.value.findIndex((l) => l.key === 'fitted'),
  )
  return above.reduce((sum, lane) => sum + (lane.px ?? 0), 0)
})
const samplesPerS = toRef(() => props.chart.rate)
const stack = useLaneStack(props.clock, wholeS, samplesPerS, lanes)
const { scale } = stack
const { below, scales } = useSourceView(
  stack,
  computed(() => trackS.value * 1.02),
  pieces,
  samplesPerS,
)
const heightsPx = usePainting({
  fitted,
  source,
  scales,
  pieces,
  plan: toRef(() => props.plan),
  dark,
  peaks: toRef(() => props.peaks),
  chart: toRef(() => props.chart),
})

const pinnedSources = computed(() => props.pinned.map((bar) => bar.source_samples))
const pinnedHits = computed(() => props.pinned.map((bar) => bar.hit_id))
const sourceS = (nowS: number) => props.plan && sourceAt(props.plan, nowS)
/** Whether something happened over the track below, which has an axis of its own. */
function isOfTrack(event: MouseEvent): boolean {
  const lane = source.value?.parentElement?.getBoundingClientRect()
  return !!lane && event.clientY >= lane.top
}

function press(event: PointerEvent): void {
  if (event.button !== 0) return
  if (!isOfTrack(event)) emit('seek', Math.min(Math.max(0, stack.secondsAt(event)), lengthS.value))
  else {
    const heardS = props.plan && heardAt(props.plan, stack.secondsAt(event, below))
    if (heardS !== null) emit('seek', heardS)
  }
}

defineExpose({ zoom: stack.view.zoom, showAll: stack.view.showAll, zoomTo: stack.view.zoomTo })
</script>

<template>
  <LaneStack
    class="fit"
    :class="{ stale: isStale && plan }"
    :stack="stack"
    label="Fit view"
    :names-px="114"
    head-ends-at="ribbons"
    :view-of="(event) => (isOfTrack(event) ? below : stack.view)"
    @press="press"
  >
    <template #name-ribbons
      ><span class="quiet small">where it<br />comes from</span></template
    >
    <template #name-source>
      <span class="title">{{ trackTitle }}</span>
      <span v-for="line in tempoAndMeter(chart)" :key="line" class="quiet small">{{ line }}</span>
    </template>
    <template #name-source-time><span class="quiet small">Track time</span></template>

    <ClockRuler :scale="scale" />
    <SpeedLane :plan="plan" :bpm="chart.free_time ? null : chart.tempo_bpm" :scale="scale" :dark="dark" />
    <BarStrip
      v-if="!chart.free_time"
      :plan="plan"
      :chart="chart"
      :hits="followsMap ? [] : hits"
      :choices="choices"
      :pinned="pinnedSources"
      :problem="problem"
      :scale="scale"
      :dark="dark"
      @try-pin="(hit, source) => emit('tryPin', hit, source)"
      @pin="(hit, source) => emit('pin', hit, source)"
      @give-up="emit('giveUp')"
      @seek="(s) => emit('seek', s)"
    />
    <div v-if="hits.length" role="group" aria-label="Hits" />
    <div class="lane">
      <canvas ref="fitted" />
      <ShapeLine
        v-if="shape.length"
        :shape="shape"
        :scale="scale"
        :length-flicks="lengthFlicks"
        :rate="rate"
      />
    </div>
    <RibbonLane :plan="plan" :pieces="pieces" :scales="scales" :dark="dark">
      <SeamStitches :plan="plan" :scale="scale" @hear="(seam) => emit('hearSeam', seam)" />
    </RibbonLane>
    <div class="lane">
      <canvas ref="source" />
      <ChartMarks :chart="chart" :scale="below.scale.value" />
      <PlayHead class="sourcehead" :clock="clock" :scale="below.scale.value" :at="sourceS" />
    </div>
    <ClockRuler :scale="below.scale.value" hangs />
    <HitThreads
      :hits="hits"
      :scales="scales"
      :dark="dark"
      :pinned="pinnedHits"
      :top-px="RULER_PX + SPEED_PX + (chart.free_time ? 0 : BARS_PX)"
      :fitted-px="heightsPx.toFitted"
      :ribbons-px="heightsPx.ribbons"
      @seek="(s) => emit('seek', s)"
    />
    <div class="over" :style="{ height: `${heightsPx.toFitted}px` }">
      <slot :scale="scale" :length-s="lengthS" :from-px="fittedFromPx" :until-px="heightsPx.toFitted" />
    </div>
    <EndHandle
      :scale="scale"
      :length-flicks="lengthFlicks"
      :rate="rate"
      :height-px="heightsPx.toFitted"
      @try-length="(f) => emit('tryLength', f)"
      @set-length="(f) => emit('setLength', f)"
      @give-up="emit('giveUp')"
    />
  </LaneStack>
</template>

<style scoped>
.fit {
  flex: 1;
}
.stale .lane,
.stale .ribbons {
  opacity: 0.35;
}
.lane {
  position: relative;
  min-height: 0;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.over {
  position: absolute;
  inset: 0 0 auto;
  overflow: hidden;
  pointer-events: none;
}
.sourcehead {
  opacity: 0.6;
}
</style>
