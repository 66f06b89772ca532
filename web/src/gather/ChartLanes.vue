<script setup lang="ts">
import type { Chart, Mark } from '@/api/client'
import type { ChartEdit } from './useCorrections'
import { useTrackPainting } from './useTrackPainting'
import { useView } from '@/lanes/useView'
import { tempoAndMeter } from '@/drawing/chart'
import { MARK_WORDS, wholeBars } from '@/drawing/grid'
import type { Peaks } from '@/drawing/peaks'
import { rulerMarks, toPx, toS } from '@/drawing/scale'
import { formatClock } from '@/time'
import { mdiClose } from '@mdi/js'
import { computed, ref, toRef, watch } from 'vue'
import { useTheme } from 'vuetify'
import BarLane from './BarLane.vue'
import ChartMarks from '@/lanes/ChartMarks.vue'
import PointHandle from './PointHandle.vue'
import ScrollStrip from '@/lanes/ScrollStrip.vue'
import SectionLane from './SectionLane.vue'

const props = defineProps<{ chart: Chart; peaks: Peaks; nowS: number; isPlaying: boolean }>()
const emit = defineEmits<{ seek: [seconds: number]; edit: [edit: ChartEdit] }>()
/** The span that is chosen, in samples; null for none. */
const span = defineModel<[number, number] | null>('span', { required: true })

const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const area = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const wholeS = computed(() => Math.max(1, props.chart.n_samples / props.chart.rate) * 1.01)
const view = useView(
  area,
  wholeS,
  toRef(() => props.chart.rate),
)
const { scale } = view
useTrackPainting(
  canvas,
  scale,
  toRef(() => props.peaks),
  toRef(() => props.chart),
  dark,
)
const marks = computed(() => rulerMarks(scale.value))
const nowPx = computed(() => toPx(scale.value, props.nowS))
const px = (samples: number) => toPx(scale.value, samples / props.chart.rate)
const samplesAt = (event: PointerEvent) => {
  const left = area.value?.getBoundingClientRect().left ?? 0
  const at = Math.round(toS(scale.value, event.clientX - left) * props.chart.rate)
  return Math.min(Math.max(0, at), props.chart.n_samples - 1)
}

/** Pressing puts the playhead there; dragging chooses a span of whole bars. */
const pressed = ref<{ at: number; px: number } | null>(null)
function press(event: PointerEvent): void {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  pressed.value = { at: samplesAt(event), px: event.clientX }
}
function drag(event: PointerEvent): void {
  if (!pressed.value || Math.abs(event.clientX - pressed.value.px) < 5) return
  span.value = wholeBars(props.chart, pressed.value.at, samplesAt(event))
}
function release(event: PointerEvent): void {
  const start = pressed.value
  pressed.value = null
  if (!start || Math.abs(event.clientX - start.px) >= 5) return
  span.value = null
  emit('seek', start.at / props.chart.rate)
}

interface Point {
  point: 'trim_start' | 'opening' | 'last_hit' | 'ring_out_end' | 'trim_end'
  name: string
  at: number
  row: number
  toLeft?: boolean
}
const points = computed<Point[]>(() => {
  const c = props.chart
  return [
    { point: 'trim_start', name: 'head', at: c.trim_start_samples, row: 0 },
    { point: 'opening', name: 'opening', at: c.opening_samples, row: 1 },
    { point: 'last_hit', name: 'last hit', at: c.last_hit_samples, row: 1, toLeft: true },
    { point: 'ring_out_end', name: 'ring-out', at: c.ring_out_end_samples, row: 0, toLeft: true },
    { point: 'trim_end', name: 'tail', at: c.trim_end_samples, row: 2, toLeft: true },
  ]
})
function movePoint(point: Point['point'], seconds: number): void {
  const at = Math.round(seconds * props.chart.rate)
  emit('edit', { kind: 'point', point, at_samples: Math.min(Math.max(0, at), props.chart.n_samples) })
}
const unmark = (m: Mark) =>
  emit('edit', {
    kind: 'remove_mark',
    mark: m.kind,
    start_samples: m.start_samples,
    end_samples: m.end_samples,
  })

watch(
  () => props.nowS,
  (now) => {
    if (props.isPlaying) view.follow(now)
  },
)
function onWheel(event: WheelEvent): void {
  const at = event.clientX - (area.value?.getBoundingClientRect().left ?? 0)
  if (event.ctrlKey || event.metaKey) view.zoom(Math.exp(-event.deltaY / 300), at)
  else view.scrollBy(event.deltaX || event.deltaY)
}
defineExpose({ zoom: view.zoom, showAll: view.showAll, zoomTo: view.zoomTo, follow: view.follow })
</script>

<template>
  <section class="lanes" aria-label="Chart editor">
    <div class="names">
      <span style="height: 26px">Time</span>
      <span style="height: 26px">{{ chart.free_time ? 'Breaths' : 'Bars' }}</span>
      <div class="grow">
        <span v-for="line in tempoAndMeter(chart)" :key="line" class="quiet small">{{ line }}</span>
        <span class="quiet small">{{ chart.key }}</span>
        <span v-if="chart.loudness_lufs !== null" class="quiet small figure"
          >{{ chart.loudness_lufs.toFixed(1) }} LUFS</span
        >
      </div>
      <span style="height: 60px">Points</span>
      <span style="height: 30px">Sections</span>
      <span style="height: 58px">Marks</span>
      <span style="height: 20px" />
    </div>
    <div ref="area" class="area" @wheel.prevent="onWheel">
      <svg class="ruler" role="presentation">
        <g v-for="m in marks" :key="m.seconds" :transform="`translate(${m.px} 0)`">
          <line y1="20" y2="26" />
          <text v-if="m.label" x="3" y="16">{{ m.label }}</text>
        </g>
      </svg>
      <BarLane :chart="chart" :scale="scale" @edit="(s) => emit('edit', s)" />
      <div
        class="wave grow"
        role="group"
        aria-label="Waveform"
        @pointerdown="press"
        @pointermove="drag"
        @pointerup="release"
        @pointercancel="pressed = null"
      >
        <canvas ref="canvas" />
        <ChartMarks :chart="chart" :scale="scale" />
        <span
          v-for="m in chart.marks"
          :key="`${m.kind} ${m.start_samples}`"
          class="band"
          :class="m.kind"
          :style="{ left: `${px(m.start_samples)}px`, width: `${px(m.end_samples) - px(m.start_samples)}px` }"
        />
        <span
          v-if="span"
          class="span"
          role="status"
          :aria-label="`Chosen, ${formatClock(span[0] / chart.rate, 2)} to ${formatClock(span[1] / chart.rate, 2)}`"
          :style="{ left: `${px(span[0])}px`, width: `${px(span[1]) - px(span[0])}px` }"
        />
      </div>
      <div class="points" role="group" aria-label="Points">
        <PointHandle
          v-for="p in points"
          :key="p.point"
          :name="p.name"
          :seconds="p.at / chart.rate"
          :px="px(p.at)"
          :px-per-s="scale.pxPerS"
          :row="p.row"
          :to-left="p.toLeft"
          :is-set="chart.corrected.includes(p.point)"
          @move="(s) => movePoint(p.point, s)"
          @reset="emit('edit', { kind: 'point', point: p.point, at_samples: null })"
        />
      </div>
      <SectionLane :chart="chart" :scale="scale" @edit="(s) => emit('edit', s)" />
      <div class="markrow" role="group" aria-label="Marks">
        <span
          v-for="m in chart.marks"
          :key="`${m.kind} ${m.start_samples}`"
          class="mark"
          :class="m.kind"
          :title="`${m.kind}: ${MARK_WORDS[m.kind]}`"
          :style="{ left: `${px(m.start_samples)}px`, width: `${px(m.end_samples) - px(m.start_samples)}px` }"
          ><span>{{ m.kind }}</span>
          <v-btn
            :icon="mdiClose"
            size="x-small"
            variant="text"
            density="compact"
            :aria-label="`Remove ${m.kind} at ${formatClock(m.start_samples / chart.rate, 1)}`"
            @click="unmark(m)"
        /></span>
        <span v-if="!chart.marks.length && !span" class="hint quiet small"
          >Drag over the waveform, then K to keep it, X to skip it, G to keep seams out</span
        >
      </div>
      <ScrollStrip :scale="scale" :whole-s="wholeS" @scroll="view.scrollBy" />
      <div class="playhead" :style="{ transform: `translateX(${nowPx}px)` }" />
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
.names > span {
  display: flex;
  align-items: center;
  flex: none;
}
.names .grow {
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 3px;
}
.small {
  font-size: 12px;
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
.grow {
  flex: 1 1 0;
  min-height: 0;
}
.ruler {
  display: block;
  width: 100%;
  height: 26px;
  flex: none;
  background: rgb(var(--v-theme-surface));
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
.wave {
  position: relative;
  cursor: text;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.span {
  position: absolute;
  top: 0;
  bottom: 0;
  background: rgba(var(--v-theme-primary), 0.18);
  border: solid rgb(var(--v-theme-primary));
  border-width: 0 1px;
  pointer-events: none;
}
.band {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}
.band.skip {
  background: rgba(var(--v-theme-background), 0.7);
}
.band.keep {
  border: 2px solid rgb(var(--v-theme-success));
  border-width: 2px 0;
}
.band.guard {
  border: 2px dotted rgb(var(--v-theme-info));
  border-width: 2px 0;
}
.points {
  position: relative;
  height: 60px;
  flex: none;
  background: rgb(var(--v-theme-surface));
}
.markrow {
  position: relative;
  height: 58px;
  flex: none;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.mark {
  position: absolute;
  height: 18px;
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding-left: 6px;
  overflow: hidden;
  border-radius: 3px;
  font-size: 12px;
  border: 1px solid currentColor;
}
.mark.keep {
  top: 1px;
  color: rgb(var(--v-theme-success));
}
.mark.guard {
  top: 39px;
  color: rgb(var(--v-theme-info));
  border-style: dotted;
}
.mark.skip {
  top: 20px;
  color: rgb(var(--v-theme-error));
  border-style: dashed;
}
.hint {
  position: absolute;
  left: 8px;
  top: 19px;
}
.playhead {
  position: absolute;
  top: 0;
  bottom: 20px;
  left: 0;
  width: 2px;
  margin-left: -1px;
  background: rgb(var(--v-theme-error));
  pointer-events: none;
  will-change: transform;
}
</style>
