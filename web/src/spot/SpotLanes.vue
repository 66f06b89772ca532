<script setup lang="ts">
import type { Cue, Picture, SheetRead, Shot, Track } from '@/api/client'
import { useStrip } from './useStrip'
import FrameRuler from '@/lanes/FrameRuler.vue'
import LaneStack from '@/lanes/LaneStack.vue'
import { useLaneStack, type Lane, type LaneClock } from '@/lanes/useLaneStack'
import { frameToPx, inView, placeSpan } from '@/drawing/spot'
import { toPx } from '@/drawing/scale'
import { flicksToSeconds, formatFrame, framesToSeconds, nearestFrame, type TimeUnit } from '@/time'
import { computed, ref, toRef, watch } from 'vue'
import { useTheme } from 'vuetify'
import SpotCue from './SpotCue.vue'
import SpotHit from './SpotHit.vue'
import SpotLine from './SpotLine.vue'

const props = defineProps<{
  picture: Picture
  sheet: SheetRead
  shots: readonly Shot[]
  cues: readonly Cue[]
  tracks: readonly Track[]
  clock: LaneClock
  inFrames: number | null
  outFrames: number | null
  selected: ReadonlySet<number>
  lineId: number | null
  cueId: number | null
  unit: TimeUnit
  /** Whether there is a lane of the tempo, and what that makes of each hit. */
  hasTempo: boolean
  landed: ReadonlyMap<number, { off_frames: number; is_met: boolean }>
}>()
const emit = defineEmits<{
  seek: [seconds: number]
  scrub: [seconds: number]
  selectHit: [id: number, more: boolean]
  moveHit: [id: number, byFrames: number, snapWithinFrames: number]
  removeHit: [id: number]
  selectLine: [id: number]
  removeLine: [id: number]
  selectCue: [id: number]
  changeCue: [id: number, side: 'start' | 'end' | 'both', byFrames: number]
  removeCue: [id: number]
  acceptCut: [frame: number]
  dropCut: [frame: number]
}>()

const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const strip = ref<HTMLCanvasElement | null>(null)
const rate = computed(() => props.picture.rate)
const lengthS = computed(() => framesToSeconds(props.picture.length_frames, rate.value))
const wholeS = computed(() => lengthS.value * 1.02)
const MOST_PX_PER_FRAME = 24
const TEMPO_PX = 44
const TEMPO_WORDS = 'Beats a minute, and the bars; what is held has a head'
const lanes = computed<Lane[]>(() => [
  { key: 'time', name: 'Time', px: 24 },
  { key: 'picture', name: 'Picture', px: 64 },
  { key: 'shots', name: 'Shots', px: 20 },
  { key: 'lines', name: `Lines ${more(seenLines.value)}`, px: 28, title: moreWords(seenLines.value) },
  { key: 'hits', name: `Hits ${more(seenHits.value)}`, px: 46, title: moreWords(seenHits.value) },
  ...(props.hasTempo ? [{ key: 'tempo', name: 'Tempo', px: TEMPO_PX, title: TEMPO_WORDS }] : []),
  { key: 'cues', name: 'Cues', px: rows.value * ROW_PX + 4 },
])
const stack = useLaneStack(
  props.clock,
  wholeS,
  computed(() => (64 * MOST_PX_PER_FRAME * rate.value.num) / rate.value.den),
  lanes,
)
const { scale, view } = stack
useStrip(
  strip,
  scale,
  toRef(() => props.picture),
  toRef(() => props.shots),
  dark,
)
const pxPerFrame = computed(() => (scale.value.pxPerS * rate.value.den) / rate.value.num)
const at = (frames: number) => formatFrame(frames, rate.value, props.picture.start_frames, props.unit)

const ROW_PX = 26
const LEAST_NAME_PX = 34
const MOST_ELEMENTS = 300
const SNAP_PX = 7
/** About how wide a hit's flag is. */
const flagPx = (label: string) => Math.min(150, 26 + 7 * label.length)
const namedShots = computed(() => {
  const seen = inView(
    props.shots,
    (s) => s.start_frames,
    (s) => s.end_frames,
    scale.value,
    rate.value,
  )
  return seen
    .map((s) => ({ ...s, ...placeSpan(scale.value, s.start_frames, s.end_frames, rate.value) }))
    .filter((s) => s.widthPx >= LEAST_NAME_PX && (s.name || s.reel))
})
const endOf = (h: SheetRead['hits'][number]) => h.until_frames ?? h.at_frames
const seenLines = computed(() =>
  inView(
    props.sheet.lines,
    (x) => x.start_frames,
    (x) => x.end_frames,
    scale.value,
    rate.value,
  ),
)
const seenHits = computed(() => inView(props.sheet.hits, (h) => h.at_frames, endOf, scale.value, rate.value))
const lines = computed(() =>
  seenLines.value
    .slice(0, MOST_ELEMENTS)
    .map((x) => ({ ...x, ...placeSpan(scale.value, x.start_frames, x.end_frames, rate.value) })),
)
const hits = computed(() => {
  const ends = [-Infinity, -Infinity]
  return seenHits.value.slice(0, MOST_ELEMENTS).map((hit) => {
    const place = placeSpan(scale.value, hit.at_frames, endOf(hit), rate.value)
    const row = place.leftPx < ends[0]! && ends[0]! > ends[1]! ? 1 : 0
    ends[row] = place.leftPx + flagPx(hit.label)
    return { hit, row, ...place }
  })
})
/** What is too much to draw at once is said. */
const more = (seen: unknown[]) => (seen.length > MOST_ELEMENTS ? `+${seen.length - MOST_ELEMENTS}` : '')
const moreWords = (seen: unknown[]) => (more(seen) ? 'more than are drawn: zoom in to see them all' : '')
const suggested = computed(() =>
  inView(
    props.sheet.suggested_cuts,
    (f) => f,
    (f) => f,
    scale.value,
    rate.value,
  )
    .slice(0, MOST_ELEMENTS)
    .map((frame) => ({ frame, px: frameToPx(scale.value, frame, rate.value) })),
)
/** Cues that overlap lie in rows under each other. */
const slots = computed(() => {
  const ends: number[] = []
  return props.cues.map((cue) => {
    const startS = framesToSeconds(cue.slot_start_frames, rate.value)
    const endS = startS + flicksToSeconds(cue.slot_length_flicks)
    let row = ends.findIndex((e) => e <= startS + 1e-6)
    if (row < 0) row = ends.length
    ends[row] = endS
    const leftPx = toPx(scale.value, startS)
    const times = `${at(cue.slot_start_frames)} to ${at(nearestFrame(endS, rate.value))}`
    return {
      cue,
      row: Math.min(row, 2),
      leftPx,
      widthPx: Math.max(1, toPx(scale.value, endS) - leftPx),
      times,
    }
  })
})
const rows = computed(() => Math.max(props.hasTempo ? 1 : 2, ...slots.value.map((s) => s.row + 1)))
const titleOf = (id: number | null) => props.tracks.find((t) => t.id === id)?.title ?? ''
const markedSpan = computed(() => {
  if (props.inFrames === null && props.outFrames === null) return null
  return placeSpan(
    scale.value,
    props.inFrames ?? 0,
    props.outFrames ?? props.picture.length_frames,
    rate.value,
  )
})

watch(
  () => props.picture.id,
  () => view.showAll(),
)

const within = (seconds: number) => Math.min(Math.max(0, seconds), lengthS.value)
function seek(event: PointerEvent): void {
  if (event.button === 0) emit('seek', within(stack.secondsAt(event)))
}

/** How far above the lane of hits their threads begin: at the strip. */
const THREAD_PX = 116
defineExpose({ zoom: view.zoom, showAll: view.showAll, zoomTo: view.zoomTo })
</script>

<template>
  <LaneStack :stack="stack" label="Spotting lanes" :names-px="77" @press="seek">
    <FrameRuler
      :scale="scale"
      :rate="rate"
      :start-frames="picture.start_frames"
      :length-s="lengthS"
      :unit="unit"
      @scrub="(s) => emit('scrub', s)"
    />
    <div class="pictures">
      <canvas ref="strip" />
      <button
        v-for="s in suggested"
        :key="s.frame"
        class="cut"
        :style="{ transform: `translateX(${s.px}px)` }"
        :aria-label="`Suggested shot change at ${at(s.frame)}`"
        :title="`A shot seems to begin at ${at(s.frame)}. Click or Enter accepts it, Delete throws it away.`"
        @pointerdown.stop
        @click="emit('acceptCut', s.frame)"
        @keydown.delete.prevent.stop="emit('dropCut', s.frame)"
      />
    </div>
    <div class="shots">
      <span
        v-for="s in namedShots"
        :key="s.start_frames"
        :style="{ transform: `translateX(${s.leftPx}px)`, width: `${s.widthPx}px` }"
        :title="`${s.name || s.reel}, ${at(s.start_frames)}, ${s.end_frames - s.start_frames} frames`"
        >{{ s.name || s.reel }}</span
      >
    </div>
    <div class="lines" role="group" aria-label="Dialogue lines">
      <SpotLine
        v-for="x in lines"
        :key="x.id"
        :line="x"
        :at="at(x.start_frames)"
        :left-px="x.leftPx"
        :width-px="x.widthPx"
        :is-selected="x.id === lineId"
        @select="emit('selectLine', x.id)"
        @remove="emit('removeLine', x.id)"
      />
    </div>
    <div class="hits" role="group" aria-label="Hits">
      <SpotHit
        v-for="h in hits"
        :key="h.hit.id"
        v-bind="h"
        :landed="landed.get(h.hit.id)"
        :at="at(h.hit.at_frames)"
        :px-per-frame="pxPerFrame"
        :is-selected="selected.has(h.hit.id)"
        :thread-px="THREAD_PX"
        @select="(more) => emit('selectHit', h.hit.id, more)"
        @move="(by, isDragged) => emit('moveHit', h.hit.id, by, isDragged ? SNAP_PX / pxPerFrame : 0)"
        @remove="emit('removeHit', h.hit.id)"
      />
    </div>
    <slot v-if="hasTempo" name="tempo" :scale="scale" :dark="dark" />
    <div class="cues" role="group" aria-label="Cues">
      <SpotCue
        v-for="s in slots"
        :key="s.cue.id"
        v-bind="s"
        :track-title="titleOf(s.cue.track_id)"
        :px-per-frame="pxPerFrame"
        :is-selected="s.cue.id === cueId"
        :dark="dark"
        @select="emit('selectCue', s.cue.id)"
        @change="(side, by) => emit('changeCue', s.cue.id, side, by)"
        @remove="emit('removeCue', s.cue.id)"
      />
    </div>
    <slot :scale="scale" :length-s="lengthS" />
    <div
      v-if="markedSpan"
      class="marked"
      :class="{ in: inFrames !== null, out: outFrames !== null }"
      :style="{ transform: `translateX(${markedSpan.leftPx}px)`, width: `${markedSpan.widthPx}px` }"
    />
  </LaneStack>
</template>

<style scoped>
.pictures {
  position: relative;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.cut {
  position: absolute;
  top: 0;
  left: -6px;
  width: 12px;
  height: 64px;
  cursor: pointer;
  background: none;
  border: 0;
}
.cut::before {
  content: '';
  position: absolute;
  left: 5px;
  top: 0;
  bottom: 0;
  border-left: 2px dashed rgb(var(--v-theme-primary));
}
.cut:hover::before,
.cut:focus-visible::before {
  border-left-style: solid;
}
.cut:focus-visible {
  outline: none;
  background: rgba(var(--v-theme-primary), 0.4);
}
.shots,
.lines,
.hits,
.cues {
  position: relative;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.08);
}
.shots span {
  position: absolute;
  left: 0;
  padding: 0 6px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  font-size: 12px;
  line-height: 20px;
  opacity: 0.8;
}
.marked {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 20px;
  pointer-events: none;
  background: rgba(var(--v-theme-primary), 0.1);
}
.marked.in {
  border-left: 2px solid rgb(var(--v-theme-primary));
}
.marked.out {
  border-right: 2px solid rgb(var(--v-theme-primary));
}
</style>
