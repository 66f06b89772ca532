<script setup lang="ts">
import type { Plan } from '@/api/client'
import CueBar from './CueBar.vue'
import FitLanes from './FitLanes.vue'
import FitReport from './FitReport.vue'
import WaysPanel from './WaysPanel.vue'
import WouldDo from './WouldDo.vue'
import { useAsks } from './useAsks'
import { useKeys } from '@/app/useKeys'
import { laneKeys } from '@/lanes/useLaneStack'
import { useSeams } from './useSeams'
import { landedHits } from '@/drawing/hits'
import { flicksToSeconds, framesToFlicks, nearestFrame } from '@/time'
import { useSession, usePictureDesk, useCueDesk, useFitDesk, useTransport } from '@/app/workbench'
import { refThrottled } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

const REPORT_EVERY_MS = 150
const session = useSession()
const { tracks } = session
const pictureDesk = usePictureDesk()
const { picture } = pictureDesk
const cueDesk = useCueDesk()
const { cue, track, length } = cueDesk
const fitDesk = useFitDesk()
const { fit, chart } = fitDesk
const { player } = useTransport()
const lanes = ref<InstanceType<typeof FitLanes> | null>(null)
const cueBar = ref<InstanceType<typeof CueBar> | null>(null)

/** While the end is dragged the trial is shown; where it cannot be fitted, the last that could be stays, faded, with why. */
const shown = computed(() => length.trial.value?.fit ?? fit.value)
const lastPossible = ref<{ of: string; plan: Plan } | null>(null)
const cueAndTrack = computed(() => `${cue.value?.id} ${track.value?.id}`)
watch(
  () => fit.value?.plan,
  (plan) => plan && (lastPossible.value = { of: cueAndTrack.value, plan }),
  { immediate: true },
)
const plan = computed(() => {
  if (shown.value?.plan) return shown.value.plan
  if (!shown.value?.problem) return null
  const last = lastPossible.value
  return fit.value?.plan ?? (last?.of === cueAndTrack.value ? last.plan : null)
})
const problem = computed(() => shown.value?.problem?.detail ?? fitDesk.fitFailure.value?.message ?? '')
/** Lengths that would work, from the refusal, moved to the frame inside what is possible. */
const instead = computed(() => {
  const params = shown.value?.problem?.params ?? {}
  const seconds = [params.possible_s, params.shortest_s]
    .flat()
    .filter((s): s is number => typeof s === 'number')
  const rate = picture.value?.rate
  if (!rate) return []
  const asked = flicksToSeconds(length.trial.value?.flicks ?? cue.value?.slot_length_flicks ?? 0)
  return seconds.map((s) => {
    const frames = (s * rate.num) / rate.den
    return framesToFlicks(s < asked ? Math.floor(frames) : Math.ceil(frames), rate)
  })
})
const isComparing = ref(false)
const seams = useSeams(plan, chart, player)
const { asks, keep, forbid } = useAsks()
const hits = computed(() =>
  plan.value && picture.value && cue.value
    ? landedHits(
        plan.value,
        pictureDesk.spotting.sheet.value?.hits ?? [],
        cue.value.slot_start_frames,
        picture.value.rate,
      )
    : [],
)
/** What the report says: while the end is dragged the lanes come first, and the tables follow in steps. */
const reported = refThrottled(
  computed(() => ({ plan: plan.value, hits: hits.value })),
  REPORT_EVERY_MS,
)

async function setLength(flicks: number): Promise<void> {
  const refusal = await cueDesk.updateCue({ slot_length_flicks: flicks })
  length.end()
  if (refusal) session.message.value = refusal
}

function step(frames: number): void {
  const rate = picture.value?.rate
  if (!rate) return
  const frame = nearestFrame(player.nowS.value, rate) + frames
  player.seek((Math.max(0, frame) * rate.den) / rate.num)
}

function toHit(back: boolean): void {
  const now = player.nowS.value
  const next = back
    ? hits.value.filter((h) => h.askedS < now - 0.005).at(-1)
    : hits.value.find((h) => h.askedS > now + 0.005)
  if (next) player.seek(next.askedS)
}

function toSeam(back: boolean): void {
  const seam = seams.next(player.nowS.value, back)
  if (seam) seams.hear(seam)
}

useKeys(() => [
  { key: 's', shift: false, run: () => toSeam(false) },
  { key: 's', shift: true, run: () => toSeam(true) },
  { key: 'ArrowUp', run: () => toHit(true) },
  { key: 'ArrowDown', run: () => toHit(false) },
  { key: 'l', run: () => cueBar.value?.focusLength() },
  { key: 'ArrowRight', shift: false, run: () => step(1) },
  { key: 'ArrowRight', shift: true, run: () => step(10) },
  { key: 'ArrowLeft', shift: false, run: () => step(-1) },
  { key: 'ArrowLeft', shift: true, run: () => step(-10) },
  ...laneKeys(() => lanes.value),
  { key: 'd', run: () => zoomToSeam() },
  { key: 'w', run: () => (isComparing.value = !isComparing.value) },
])

function zoomToSeam(): void {
  const seam = seams.nearest(player.nowS.value)
  if (seam && plan.value) lanes.value?.zoomTo(seam.out_samples / plan.value.rate, 4)
}

const emptyWords = computed(() => {
  if (!tracks.value) return 'Opening the production …'
  if (session.production.value && !pictureDesk.pictures.value.length)
    return 'There is no picture here yet. Drop a film anywhere on this page, or add a length in the menu at the top left.'
  if (!tracks.value.length) return 'Drop a track anywhere on this page; it is fitted to the slot at once.'
  if (session.production.value && !cue.value)
    return 'There is no cue on this picture yet. Go to Spot, mark in and out with I and O, and press C.'
  if (!track.value) return 'Pick a track at the left; it is fitted to the slot at once.'
  if (track.value.state === 'listening')
    return `Listening to ${track.value.title}; the fit comes right after.`
  if (track.value.state !== 'ready')
    return `${track.value.title} could not be listened to. Pick another track.`
  return ''
})
</script>

<template>
  <CueBar
    v-if="cue && picture"
    ref="cueBar"
    :cue="cue"
    :rate="picture.rate"
    :track-title="track?.title ?? ''"
    :trial-flicks="length.trial.value?.flicks ?? null"
    :fit-id="fit?.fit_id ?? null"
    :can-save="!!fit?.plan && !problem && !fitDesk.isFitting.value"
    :has-bars="!!chart && !chart.free_time"
  />
  <FitLanes
    v-if="cue && picture && chart && fitDesk.peaks.value && (plan || problem)"
    ref="lanes"
    :plan="plan"
    :hits="hits"
    :chart="chart"
    :peaks="fitDesk.peaks.value"
    :rate="picture.rate"
    :length-flicks="length.trial.value?.flicks ?? cue.slot_length_flicks"
    :track-title="track?.title ?? ''"
    :clock="player"
    :is-stale="!!problem"
    :slot-flicks="cue.slot_length_flicks"
    :shape="asks.shape ?? []"
    @seek="player.seek"
    @try-length="length.tryLength"
    @set-length="setLength"
    @give-up="length.end()"
    @hear-seam="seams.hear"
  />
  <div v-else class="empty" role="status">{{ emptyWords || 'Fitting …' }}</div>
  <div v-if="cue && track" class="tabs" role="tablist" aria-label="Below the lanes">
    <button role="tab" :aria-selected="!isComparing" @click="isComparing = false">Report</button>
    <button
      role="tab"
      :aria-selected="isComparing"
      title="What every method makes of it (W)"
      @click="isComparing = true"
    >
      Other ways
    </button>
  </div>
  <WaysPanel v-if="isComparing && cue && track" />
  <FitReport
    v-else-if="cue"
    :plan="reported.plan"
    :hits="reported.hits"
    :problem="problem"
    :near="seams.near.value"
    :rate="picture?.rate"
    :instead="length.trial.value ? [] : instead"
    :is-outdated="!length.trial.value && !!fit?.is_outdated"
    :kept="asks.kept_seams ?? []"
    @fit-again="cueDesk.fitAgain"
    @hear="seams.hear"
    @keep="keep"
    @forbid="forbid"
    @seek="player.seek"
    @set-length="setLength"
  >
    <WouldDo v-if="!length.trial.value" :hits="hits" />
  </FitReport>
</template>

<style scoped>
.tabs {
  flex: none;
  display: flex;
  gap: 18px;
  padding: 6px 16px 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  background: rgb(var(--v-theme-surface));
  font-size: 14px;
}
.tabs button {
  padding: 1px 0 3px;
  color: inherit;
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  opacity: 0.75;
}
.tabs button[aria-selected='true'] {
  border-color: rgb(var(--v-theme-primary));
  opacity: 1;
}
.empty {
  flex: 1;
  display: grid;
  place-items: center;
  font-size: 17px;
  opacity: 0.8;
  padding: 40px;
  text-align: center;
}
</style>
