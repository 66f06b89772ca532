<script setup lang="ts">
import type { Chart, Mark } from '@/api/client'
import type { ChartEdit } from '@/desks/useCorrections'
import { useTrackPainting } from './useTrackPainting'
import { tempoAndMeter } from '@/drawing/chart'
import { MARK_WORDS, wholeBars } from '@/drawing/grid'
import type { Peaks } from '@/api/peaks'
import { toPx } from '@/drawing/scale'
import ChartMarks from '@/lanes/ChartMarks.vue'
import ClockRuler from '@/lanes/ClockRuler.vue'
import LaneStack from '@/lanes/LaneStack.vue'
import { useLaneStack, type Lane, type LaneClock } from '@/lanes/useLaneStack'
import { formatClock } from '@/time'
import { mdiClose } from '@mdi/js'
import { computed, ref, toRef } from 'vue'
import { useTheme } from 'vuetify'
import BarLane from './BarLane.vue'
import PointHandle from './PointHandle.vue'
import SectionLane from './SectionLane.vue'

const props = defineProps<{ chart: Chart; peaks: Peaks; clock: LaneClock }>()
const emit = defineEmits<{ seek: [seconds: number]; edit: [edit: ChartEdit] }>()
/** The span that is chosen, in samples; null for none. */
const span = defineModel<[number, number] | null>('span', { required: true })

const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const canvas = ref<HTMLCanvasElement | null>(null)
const wholeS = computed(() => Math.max(1, props.chart.n_samples / props.chart.rate) * 1.01)
const lanes = computed<Lane[]>(() => [
  { key: 'time', name: 'Time', px: 26 },
  { key: 'bars', name: props.chart.free_time ? 'Breaths' : 'Bars', px: 26 },
  { key: 'wave', share: 1 },
  { key: 'points', name: 'Points', px: 60 },
  { key: 'sections', name: 'Sections', px: 30 },
  { key: 'marks', name: 'Marks', px: 58 },
])
const stack = useLaneStack(
  props.clock,
  wholeS,
  toRef(() => props.chart.rate),
  lanes,
)
const { scale, view } = stack
useTrackPainting(
  canvas,
  scale,
  toRef(() => props.peaks),
  toRef(() => props.chart),
  dark,
)
const px = (samples: number) => toPx(scale.value, samples / props.chart.rate)
const samplesAt = (event: PointerEvent) => {
  const at = Math.round(stack.secondsAt(event) * props.chart.rate)
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

defineExpose({ zoom: view.zoom, showAll: view.showAll, zoomTo: view.zoomTo, follow: view.follow })
</script>

<template>
  <LaneStack class="chart" :stack="stack" label="Chart editor" :names-px="114">
    <template #name-wave>
      <span v-for="line in tempoAndMeter(chart)" :key="line" class="quiet small">{{ line }}</span>
      <span class="quiet small">{{ chart.key }}</span>
      <span v-if="chart.loudness_lufs !== null" class="quiet small figure"
        >{{ chart.loudness_lufs.toFixed(1) }} LUFS</span
      >
    </template>

    <ClockRuler :scale="scale" />
    <BarLane :chart="chart" :scale="scale" @edit="(s) => emit('edit', s)" />
    <div
      class="wave"
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
  </LaneStack>
</template>

<style scoped>
.chart {
  flex: 1;
}
.wave {
  position: relative;
  min-height: 0;
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
  background: rgb(var(--v-theme-surface));
}
.markrow {
  position: relative;
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
</style>
