<script setup lang="ts">
import type { Chart, Plan, Seam } from '@/api/client'
import { howSure, tempoAndMeter } from '@/drawing/chart'
import { usePainting } from './usePainting'
import { useTwoViews } from './useTwoViews'
import type { LandedHit } from '@/drawing/hits'
import { heardAt, pieces as piecesOf, ribbonPath, sourceAt } from '@/drawing/layout'
import type { Peaks } from '@/drawing/peaks'
import { rulerMarks, toPx, toS } from '@/drawing/scale'
import type { Wish } from '@/drawing/shape'
import { sectionColor } from '@/app/theme'
import { flicksToSeconds, formatClock, type Rate } from '@/time'
import { computed, ref, toRef, watch } from 'vue'
import { useTheme } from 'vuetify'
import ChartMarks from '@/lanes/ChartMarks.vue'
import EndHandle from './EndHandle.vue'
import HitThread from './HitThread.vue'
import SeamStitch from './SeamStitch.vue'
import ShapeLine from './ShapeLine.vue'
import ScrollStrip from '@/lanes/ScrollStrip.vue'
import SpeedLane from './SpeedLane.vue'

const props = defineProps<{
  plan: Plan | null
  hits: LandedHit[]
  chart: Chart
  peaks: Peaks
  rate: Rate
  startFrames: number
  lengthFlicks: number
  trackTitle: string
  nowS: number
  isPlaying: boolean
  isStale: boolean
  /** As long as the slot is: what is shown while its end is dragged. */
  slotFlicks: number
  shape: Wish[]
}>()
const ROOM = 1.25 // of the slot: there is where its end can be dragged to
const emit = defineEmits<{
  seek: [seconds: number]
  tryLength: [flicks: number]
  setLength: [flicks: number]
  giveUp: []
  hearSeam: [seam: Seam]
}>()

const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const area = ref<HTMLElement | null>(null)
const fitted = ref<HTMLCanvasElement | null>(null)
const source = ref<HTMLCanvasElement | null>(null)

const lengthS = computed(() => flicksToSeconds(props.lengthFlicks))
const trackS = computed(() => props.chart.n_samples / props.chart.rate)
/** A fit that is shown because nothing else could be had may be longer than the slot. */
const staleS = computed(() => (props.isStale && props.plan ? props.plan.target_samples / props.plan.rate : 0))
const wholeS = computed(() => Math.max(1, ROOM * Math.max(flicksToSeconds(props.slotFlicks), staleS.value)))
const pieces = computed(() => (props.plan ? piecesOf(props.plan, props.chart) : []))
const {
  out,
  source: below,
  scales,
} = useTwoViews(
  area,
  wholeS,
  computed(() => trackS.value * 1.02),
  pieces,
  toRef(() => props.chart.rate),
)
const { scale } = out
const marks = computed(() => rulerMarks(scale.value))
const sourceMarks = computed(() => rulerMarks(below.scale.value))
const heightsPx = usePainting({
  fitted,
  source,
  scales,
  pieces,
  dark,
  peaks: toRef(() => props.peaks),
  chart: toRef(() => props.chart),
})

const nowPx = computed(() => toPx(scale.value, props.nowS))
const sourceNowPx = computed(() => {
  const s = props.plan ? sourceAt(props.plan, props.nowS) : null
  return s === null ? null : toPx(below.scale.value, s)
})
const seamPx = (seam: Seam) => toPx(scale.value, seam.out_samples / props.chart.rate)
const letters = computed(() =>
  pieces.value.map((p) => ({
    ...p,
    px: Math.max(4, toPx(scale.value, p.outInS) + 5),
    endPx: toPx(scale.value, p.outOutS),
  })),
)
const sections = computed(() =>
  props.chart.sections.map((s) => ({
    label: s.label,
    px: Math.max(4, toPx(below.scale.value, s.start_samples / props.chart.rate) + 5),
    endPx: toPx(below.scale.value, s.end_samples / props.chart.rate),
  })),
)

watch(
  () => props.nowS,
  (now) => {
    if (props.isPlaying) out.follow(now)
  },
)

function onWheel(event: WheelEvent): void {
  const px = event.clientX - (area.value?.getBoundingClientRect().left ?? 0)
  const view = isOfTrack(event) ? below : out
  if (event.ctrlKey || event.metaKey) view.zoom(Math.exp(-event.deltaY / 300), px)
  else view.scrollBy(event.deltaX || event.deltaY)
}

/** Whether something happened over the track below, which has an axis of its own. */
function isOfTrack(event: MouseEvent): boolean {
  const lane = source.value?.parentElement?.getBoundingClientRect()
  return !!lane && event.clientY >= lane.top
}

function onPointerDown(event: PointerEvent): void {
  if (event.button !== 0) return
  const px = event.clientX - (area.value?.getBoundingClientRect().left ?? 0)
  if (!isOfTrack(event)) emit('seek', Math.min(Math.max(0, toS(scale.value, px)), lengthS.value))
  else {
    const heardS = props.plan && heardAt(props.plan, toS(below.scale.value, px))
    if (heardS !== null) emit('seek', heardS)
  }
}

defineExpose({ zoom: out.zoom, showAll: out.showAll, zoomTo: out.zoomTo })
</script>

<template>
  <section class="lanes" :class="{ stale: isStale && plan }" aria-label="Fit view">
    <div class="names">
      <span style="height: 26px">Time</span>
      <span style="height: 34px" title="How much faster or slower than the track's own speed">Speed</span>
      <span v-if="hits.length" style="height: 24px">Hits</span>
      <span class="grow2">Fitted music</span>
      <span class="grow3 quiet small">where it<br />comes from</span>
      <div class="grow2 source" :title="howSure(chart)">
        <span class="title">{{ trackTitle }}</span>
        <span v-for="line in tempoAndMeter(chart)" :key="line" class="quiet small">{{ line }}</span>
      </div>
      <span class="small quiet" style="height: 22px">Track time</span>
      <span style="height: 20px" />
    </div>
    <div ref="area" class="area" @wheel.prevent="onWheel" @pointerdown="onPointerDown">
      <svg class="ruler" role="presentation">
        <g v-for="m in marks" :key="m.seconds" :transform="`translate(${m.px} 0)`">
          <line y1="20" y2="26" />
          <text v-if="m.label" x="3" y="16">{{ m.label }}</text>
        </g>
      </svg>
      <SpeedLane :plan="plan" :scale="scale" />
      <div v-if="hits.length" class="hits" role="group" aria-label="Hits" />
      <div class="lane grow2">
        <canvas ref="fitted" />
        <span
          v-for="(l, i) in letters"
          v-show="l.endPx - l.px > 8"
          :key="i"
          class="letter"
          :style="{ left: `${l.px}px`, color: sectionColor(l.label, dark) }"
          >{{ l.label }}</span
        >
        <ShapeLine
          v-if="shape.length"
          :shape="shape"
          :scale="scale"
          :length-flicks="lengthFlicks"
          :rate="rate"
        />
      </div>
      <svg class="ribbons grow3" role="group" aria-label="Where every passage comes from">
        <g v-for="(p, i) in pieces" :key="i">
          <title>
            {{ p.label }}: {{ formatClock(p.sourceInS, 2) }} to {{ formatClock(p.sourceOutS, 2) }} of the
            track
          </title>
          <path
            :d="ribbonPath(scales, p, 0, heightsPx.ribbons)"
            :fill="sectionColor(p.label, dark)"
            :stroke="sectionColor(p.label, dark)"
          />
        </g>
        <SeamStitch
          v-for="(seam, i) in plan?.seams ?? []"
          :key="seam.out_samples"
          :seam="seam"
          :number="i + 1"
          :rate="chart.rate"
          :x="seamPx(seam)"
          :y="17"
          @hear="emit('hearSeam', seam)"
        />
      </svg>
      <div class="lane grow2">
        <canvas ref="source" />
        <span
          v-for="(l, i) in sections"
          v-show="l.endPx - l.px > 8"
          :key="i"
          class="letter"
          :style="{ left: `${l.px}px`, color: sectionColor(l.label, dark) }"
          >{{ l.label }}</span
        >
        <ChartMarks :chart="chart" :scale="below.scale.value" />
        <div
          v-if="sourceNowPx !== null"
          class="sourcehead"
          :style="{ transform: `translateX(${sourceNowPx}px)` }"
        />
      </div>
      <svg class="ruler source-time" role="presentation">
        <g v-for="m in sourceMarks" :key="m.seconds" :transform="`translate(${m.px} 0)`">
          <line y1="0" :y2="m.label ? 6 : 4" />
          <text v-if="m.label" x="3" y="15">{{ m.label }}</text>
        </g>
      </svg>
      <HitThread
        v-for="(hit, i) in hits"
        :key="i"
        :hit="hit"
        :scales="scales"
        :fitted-px="heightsPx.toFitted"
        :ribbons-px="heightsPx.ribbons"
        @seek="emit('seek', hit.askedS)"
      />
      <ScrollStrip :scale="scale" :whole-s="wholeS" @scroll="out.scrollBy" />
      <div
        class="playhead"
        :style="{ transform: `translateX(${nowPx}px)`, height: `${heightsPx.toFitted}px` }"
      />
      <EndHandle
        :scale="scale"
        :length-flicks="lengthFlicks"
        :rate="rate"
        :height-px="heightsPx.toFitted"
        @try-length="(f) => emit('tryLength', f)"
        @set-length="(f) => emit('setLength', f)"
        @give-up="emit('giveUp')"
      />
    </div>
  </section>
</template>

<style scoped>
.lanes {
  flex: 1;
  display: flex;
  min-height: 0;
  font-size: 13px;
}
.names {
  width: 106px;
  flex: none;
  display: flex;
  flex-direction: column;
  padding-left: 16px;
  border-right: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.names span {
  display: flex;
  align-items: center;
  line-height: 1.25;
  overflow: hidden;
}
.small {
  font-size: 12px;
}
.source {
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 3px;
  overflow: hidden;
}
.area {
  position: relative;
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  overflow: hidden;
  touch-action: none;
}
.stale .lane,
.stale .ribbons {
  opacity: 0.35;
}
.grow2 {
  flex: 2 1 0;
  min-height: 0;
}
.grow3 {
  flex: 2.4 1 0;
  min-height: 0;
}
svg {
  display: block;
  width: 100%;
  overflow: hidden;
}
.ruler {
  height: 26px;
  flex: none;
  background: rgb(var(--v-theme-surface));
}
.source-time {
  height: 22px;
}
.ruler line {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-opacity: 0.35;
}
text {
  fill: rgb(var(--v-theme-on-surface));
  font-size: 12px;
  font-variant-numeric: tabular-nums;
}
.hits {
  height: 24px;
  flex: none;
}
.lane {
  position: relative;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.letter {
  position: absolute;
  top: 2px;
  font-weight: 700;
  font-size: 14px;
  pointer-events: none;
}
.ribbons path {
  fill-opacity: 0.3;
  stroke-opacity: 0.75;
}
.ribbons g:hover > path {
  fill-opacity: 0.5;
}
.playhead,
.sourcehead {
  position: absolute;
  top: 0;
  left: 0;
  width: 2px;
  margin-left: -1px;
  background: rgb(var(--v-theme-error));
  pointer-events: none;
  will-change: transform;
}
.sourcehead {
  height: 100%;
  opacity: 0.6;
}
</style>
