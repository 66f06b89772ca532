<script setup lang="ts">
import type { Plan } from '@/api/client'
import CueBar from './CueBar.vue'
import FitLanes from './FitLanes.vue'
import FollowMap from './FollowMap.vue'
import FitReport from './FitReport.vue'
import HitBars from './HitBars.vue'
import WaysPanel from './WaysPanel.vue'
import WouldDo from './WouldDo.vue'
import { useAsks, useSeamWishes } from './useAsks'
import { usePinnedBars } from './usePinnedBars'
import { useKeys } from '@/keys/useKeys'
import { laneKeys } from '@/lanes/useLaneStack'
import { useSeams } from './useSeams'
import { movedBy } from '@/drawing/bars'
import MapBars from '@/tempo/MapBars.vue'
import TempoPanel from '@/tempo/TempoPanel.vue'
import { useTempo } from '@/tempo/useTempo'
import { useClick } from '@/transport/useClick'
import { landedHits, type LandedHit } from '@/drawing/hits'
import { flicksToSeconds, framesToFlicks, framesToSeconds, nearestFrame } from '@/time'
import { useSession, usePictureDesk, useCueDesk, useFitDesk, useTransport } from '@/desks/workbench'
import { refThrottled, until } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'

const REPORT_EVERY_MS = 150
const LONGEST_FIT_MS = 5000
const session = useSession()
const { tracks } = session
const pictureDesk = usePictureDesk()
const { picture } = pictureDesk
const cueDesk = useCueDesk()
const { cue, track, trying } = cueDesk
const { trial } = trying
const fitDesk = useFitDesk()
const { fit, chart, heard, hasBefore, isBefore } = fitDesk
const { player } = useTransport()
const lanes = ref<InstanceType<typeof FitLanes> | null>(null)
const cueBar = ref<InstanceType<typeof CueBar> | null>(null)

/** While the end is dragged the trial is shown; where it cannot be fitted, the last that could be stays, faded, with why. */
const shown = computed(() => trial.value?.fit ?? heard.value)
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
  const asked = flicksToSeconds(trial.value?.flicks ?? cue.value?.slot_length_flicks ?? 0)
  return seconds.map((s) => {
    const frames = (s * rate.num) / rate.den
    return framesToFlicks(s < asked ? Math.floor(frames) : Math.ceil(frames), rate)
  })
})
const TABS = [
  ['report', 'Report', 'What came of it'],
  ['ways', 'Other ways', 'What every method makes of it (W)'],
  ['bars', 'Bars on hits', 'Which bar lands on which hit, and what another would do to the tempo (B)'],
  ['tempo', 'Tempo', 'The tempi that meet the hits of the picture, and its tempo map (T)'],
] as const
const tab = ref<(typeof TABS)[number][0]>('report')
const turnTo = (wanted: typeof tab.value) => (tab.value = tab.value === wanted ? 'report' : wanted)
const seams = useSeams(plan, chart, player)
const { asks } = useAsks()
const wishes = useSeamWishes()
const followsMap = computed(() => asks.value.method === 'bend' && !!asks.value.held_bars?.length)
const landedIn = (one: Plan) =>
  picture.value && cue.value
    ? landedHits(
        one,
        pictureDesk.spotting.sheet.value?.hits ?? [],
        cue.value.slot_start_frames,
        picture.value.rate,
      )
    : []
const hits = computed(() => (plan.value ? landedIn(plan.value) : []))
/** What the report says: while the end is dragged the lanes come first, and the tables follow in steps. */
const reported = refThrottled(
  computed(() => ({ plan: plan.value, hits: hits.value, said: shown.value?.seams ?? [] })),
  REPORT_EVERY_MS,
)

async function setLength(flicks: number): Promise<void> {
  const refusal = await cueDesk.updateCue({ slot_length_flicks: flicks })
  trying.end()
  if (refusal) session.message.value = refusal
}
/** Bars that are dragged to hits: of the fit that is kept, whatever is tried. */
const kept = computed(() => (fit.value?.plan ? landedIn(fit.value.plan) : []))
const bars = usePinnedBars(() => kept.value)
let tried = 0
async function tryPin(hit: LandedHit, source: number): Promise<void> {
  const one = ++tried
  const asked = await bars.asksToMove(hit, source).catch(() => null)
  if (asked && one === tried) trying.tryAsks(asked)
}
function giveUp(): void {
  tried++
  trying.end()
}
/** What was tried stays in the lanes until the fit is there that was asked for. */
async function pinBar(hit: LandedHit, source: number): Promise<void> {
  tried++
  await bars.move(hit, source)
  await nextTick()
  await until(fitDesk.isFitting).toBe(false, { timeout: LONGEST_FIT_MS })
  trying.end()
}

/** The steady tempo of the picture, where this cue lies on it. */
const tempo = useTempo(() => tab.value === 'tempo')
const isClicking = ref(false)
/** Where the slot begins on the picture, in seconds. */
const slotStartS = computed(() =>
  cue.value && picture.value ? framesToSeconds(cue.value.slot_start_frames, picture.value.rate) : 0,
)
/** Its beats, from the start of the slot. */
const beats = computed(() =>
  tempo.seen.value && tab.value === 'tempo' ? movedBy(tempo.seen.value, -slotStartS.value) : null,
)
/** Over the fitted music, with the numbers where it is thin. */
const barsAt = (fromPx: number, untilPx: number) => ({ fromPx, numbersPx: untilPx - 25, beatsPx: fromPx })
useClick(
  computed(() => (tab.value === 'tempo' ? tempo.clicksFrom(slotStartS.value) : null)),
  isClicking,
  player,
)

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
  {
    key: 's',
    shift: false,
    keys: 'S',
    words: 'Next seam: hear two bars around it; with Shift the one before',
    run: () => toSeam(false),
  },
  { key: 's', shift: true, run: () => toSeam(true) },
  { key: 'ArrowUp', keys: '↑ ↓', words: 'To the hit before or after', run: () => toHit(true) },
  { key: 'ArrowDown', run: () => toHit(false) },
  { key: 'l', keys: 'L', words: 'Type a length', run: () => cueBar.value?.focusLength() },
  {
    key: 'ArrowRight',
    shift: false,
    keys: '← →',
    words: 'One frame back or on; with Shift ten',
    run: () => step(1),
  },
  { key: 'ArrowRight', shift: true, run: () => step(10) },
  { key: 'ArrowLeft', shift: false, run: () => step(-1) },
  { key: 'ArrowLeft', shift: true, run: () => step(-10) },
  ...laneKeys(() => lanes.value),
  { key: 'd', keys: 'D', words: 'Zoom to the nearest seam', run: () => zoomToSeam() },
  { key: 'w', keys: 'W', words: 'Report, or other ways to fit', run: () => turnTo('ways') },
  { key: 'b', keys: 'B', words: 'Which bar lands on which hit', run: () => turnTo('bars') },
  {
    key: 't',
    keys: 'T',
    words: 'The tempi that meet the hits, and the tempo map',
    run: () => turnTo('tempo'),
  },
  {
    key: 'e',
    keys: 'E',
    words: 'See and hear the fit before; again: the one that is',
    run: () => void turnBefore(),
  },
])

/** What is still tried or fitted comes first: the fit before is the one before that. */
async function turnBefore(): Promise<void> {
  await until(() => fitDesk.isFitting.value || !!trial.value).toBe(false, { timeout: LONGEST_FIT_MS })
  if (hasBefore.value) isBefore.value = !isBefore.value
  else
    session.message.value =
      'There is no fit before this one yet. Change something, and E goes back and forth.'
}

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
    :trial-flicks="trial?.flicks ?? null"
    :fit-id="fit?.fit_id ?? null"
    :can-save="!!fit?.plan && !problem && !fitDesk.isFitting.value"
    :has-bars="!!chart && !chart.free_time"
    :is-before="isBefore"
    @now="isBefore = false"
  />
  <FitLanes
    v-if="cue && picture && chart && fitDesk.peaks.value && (plan || problem)"
    ref="lanes"
    :plan="plan"
    :hits="hits"
    :chart="chart"
    :peaks="fitDesk.peaks.value"
    :rate="picture.rate"
    :length-flicks="trial?.flicks ?? cue.slot_length_flicks"
    :track-title="track?.title ?? ''"
    :clock="player"
    :is-stale="!!problem"
    :slot-flicks="cue.slot_length_flicks"
    :shape="asks.shape ?? []"
    :choices="shown?.choices ?? []"
    :pinned="bars.pinned.value"
    :follows-map="followsMap"
    :problem="trial ? problem : ''"
    @seek="player.seek"
    @try-length="trying.tryLength"
    @set-length="setLength"
    @try-pin="tryPin"
    @pin="pinBar"
    @give-up="giveUp"
    @hear-seam="seams.hear"
  >
    <template #default="{ scale, lengthS, fromPx, untilPx }">
      <MapBars
        v-if="beats"
        :map="beats"
        :label="tempo.seenWords.value"
        :scale="scale"
        :until-s="lengthS"
        v-bind="barsAt(fromPx, untilPx)"
      />
    </template>
  </FitLanes>
  <div v-else class="empty" role="status">{{ emptyWords || 'Fitting …' }}</div>
  <div v-if="cue && track" class="tabs" role="tablist" aria-label="Below the lanes">
    <button
      v-for="[name, words, title] in TABS"
      :key="name"
      role="tab"
      :aria-selected="tab === name"
      :title="title"
      @click="tab = name"
    >
      {{ words }}
    </button>
  </div>
  <WaysPanel v-if="tab === 'ways' && cue && track" />
  <HitBars
    v-else-if="tab === 'bars' && cue && chart"
    :fit="shown"
    :hits="hits"
    :chart="chart"
    :method="asks.method ?? 'blend'"
    :follows-map="followsMap"
    @seek="player.seek"
  />
  <div v-else-if="tab === 'tempo' && cue" class="tempo">
    <FollowMap v-if="track" :has-map="!!tempo.laid.map.value" />
    <TempoPanel v-model:click="isClicking" :tempo="tempo" />
  </div>
  <FitReport
    v-else-if="cue"
    :plan="reported.plan"
    :hits="reported.hits"
    :problem="problem"
    :near="seams.near.value"
    :rate="picture?.rate"
    :instead="trial ? [] : instead"
    :is-outdated="!trial && !!fit?.is_outdated"
    :said="reported.said"
    :n-kept="wishes.kept.value.length"
    @fit-again="cueDesk.fitAgain"
    @hear="seams.hear"
    @keep="wishes.keep"
    @forbid="wishes.forbid"
    @seek="player.seek"
    @set-length="setLength"
  >
    <WouldDo v-if="!trial" :hits="hits" />
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
.tempo {
  flex: none;
  display: flex;
  flex-direction: column;
  height: 36vh;
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
