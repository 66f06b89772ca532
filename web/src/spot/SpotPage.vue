<script setup lang="ts">
import SpotBar from './SpotBar.vue'
import SpotLanes from './SpotLanes.vue'
import SpotTable from './SpotTable.vue'
import MapBars from '@/tempo/MapBars.vue'
import TempoLane from '@/tempo/TempoLane.vue'
import TempoPanel from '@/tempo/TempoPanel.vue'
import UploadList from '@/library/UploadList.vue'
import { slotMoved, type SlotSide } from './slots'
import { useClick } from '@/transport/useClick'
import { useKeys } from '@/keys/useKeys'
import { laneKeys } from '@/lanes/useLaneStack'
import { useTempo } from '@/tempo/useTempo'
import { snapped } from '@/drawing/spot'
import { framesToSeconds, secondsToFrame, TIME_UNITS, type TimeUnit } from '@/time'
import { useSession, usePictureDesk, useCueDesk, useTransport } from '@/desks/workbench'
import { computed, ref, watch } from 'vue'

const session = useSession()
const { tracks } = session
const { picture, spotting, inOut } = usePictureDesk()
const cueDesk = useCueDesk()
const { cues } = cueDesk
const { player, shuttle } = useTransport()
const { sheet, shots } = spotting
const lanes = ref<InstanceType<typeof SpotLanes> | null>(null)
const table = ref<InstanceType<typeof SpotTable> | null>(null)
const tab = ref('hits')
const selected = ref<ReadonlySet<number>>(new Set())
const lineId = ref<number | null>(null)
const cueId = ref<number | null>(null)
const unit = ref<TimeUnit>((localStorage.getItem('unit') as TimeUnit | null) ?? 'timecode')
const isSnapping = ref(true)
const isClicking = ref(false)
const tempo = useTempo(
  () => tab.value === 'tempo',
  () => true,
)
useClick(
  computed(() => tempo.clicksFrom(0)),
  isClicking,
  player,
)
watch(unit, (now) => localStorage.setItem('unit', now))
watch(
  () => picture.value?.id,
  () => {
    selected.value = new Set()
    lineId.value = cueId.value = null
    player.loop.value = null
    tab.value = 'hits'
  },
)
watch(sheet, (now) => {
  if (tab.value === 'carried' && !now?.carried) tab.value = 'hits'
})

const rate = computed(() => picture.value?.rate)
/** The frame that shows at this very moment. */
const nowFrame = () =>
  rate.value ? Math.min(secondsToFrame(player.clockS(), rate.value), picture.value!.length_frames - 1) : 0
const goTo = (frames: number) => rate.value && player.seek(framesToSeconds(frames, rate.value))
const cuts = computed(() =>
  [...(shots.value ?? []).map((s) => s.start_frames).slice(1), ...(sheet.value?.suggested_cuts ?? [])].sort(
    (a, b) => a - b,
  ),
)

async function markHit(): Promise<void> {
  tab.value = 'hits' // at once: what is looked at when the answer comes stays
  const before = new Set(sheet.value?.hits.map((h) => h.id))
  const label = `Hit ${before.size + 1}`
  const made = await spotting.edit({
    edit: 'add_hit',
    at_frames: nowFrame(),
    label,
    kind: 'downbeat',
    weight: 'should',
    tolerance_frames: 0,
  })
  const fresh = made?.hits.find((h) => !before.has(h.id))
  if (fresh) selected.value = new Set([fresh.id])
}

function selectHit(id: number, more = false): void {
  const next = new Set(more ? selected.value : [])
  if (more && next.has(id)) next.delete(id)
  else next.add(id)
  selected.value = next
  lineId.value = null
  const hit = sheet.value?.hits.find((h) => h.id === id)
  if (hit && !player.isPlaying.value && !more) goTo(hit.at_frames)
  tab.value = 'hits'
}

function selectLine(id: number): void {
  if (lineId.value === id) return
  lineId.value = id
  selected.value = new Set()
  const line = sheet.value?.lines.find((x) => x.id === id)
  if (line && !player.isPlaying.value) goTo(line.start_frames)
  tab.value = 'lines'
}

function selectCue(id: number): void {
  cueId.value = cueDesk.cueId.value = id
  selected.value = new Set()
  lineId.value = null
  tab.value = 'cue'
}

async function moveHit(id: number, byFrames: number, snapWithinFrames: number): Promise<void> {
  const hit = sheet.value?.hits.find((h) => h.id === id)
  if (!hit) return
  const ids = selected.value.has(id) ? [...selected.value] : [id]
  const to = hit.at_frames + byFrames
  const by = (isSnapping.value ? snapped(to, cuts.value, snapWithinFrames) : to) - hit.at_frames
  if (!by) return
  await spotting.edit({ edit: 'move_hits', ids, by_frames: by })
  if (!player.isPlaying.value) goTo(hit.at_frames + by)
}

/** Chosen hits by frames, from wherever the keys are. */
function nudge(byFrames: number): void {
  const first = [...selected.value][0]
  if (first !== undefined) void moveHit(first, byFrames, 0)
}

function withSelected(edit: 'remove_hits' | 'snap_hits'): void {
  if (!selected.value.size)
    return void (session.message.value = 'Choose one or more hits first, in the lanes or the table.')
  void spotting.edit({ edit, ids: [...selected.value] })
  if (edit === 'remove_hits') selected.value = new Set()
}

/** A hit that is one of several chosen goes with them. */
function removeHit(id: number): void {
  if (!selected.value.has(id)) selected.value = new Set([id])
  withSelected('remove_hits')
}

function removeChosen(): void {
  if (selected.value.size) withSelected('remove_hits')
  else if (lineId.value !== null) void spotting.edit({ edit: 'remove_lines', ids: [lineId.value] })
  else if (cueId.value !== null) void spotting.removeCue(cueId.value)
  lineId.value = null
}

async function addCue(isWhole: boolean): Promise<void> {
  const now = nowFrame()
  await spotting.settled()
  const p = picture.value
  if (!p) return
  const shot = shots.value?.find((s) => s.start_frames <= now && now < s.end_frames)
  const here: [number, number] | null = shot ? [shot.start_frames, shot.end_frames] : null
  const span = isWhole ? ([0, p.length_frames] as const) : (inOut.frames.value ?? here)
  if (!span) {
    session.message.value =
      'Mark in and out with I and O first, or press Shift C for a cue over the whole picture.'
    return
  }
  const made = await spotting.addCue(span[0], span[1])
  if (made) {
    inOut.clear()
    selectCue(made.id)
  }
}

async function addLine(): Promise<void> {
  const span = inOut.frames.value
  if (!span)
    return void (session.message.value = 'Mark where somebody speaks with I and O first, then press D.')
  const before = new Set(sheet.value?.lines.map((x) => x.id))
  const made = await spotting.edit({ edit: 'add_line', start_frames: span[0], end_frames: span[1], text: '' })
  if (!made) return
  inOut.clear()
  selectLine(made.lines.find((x) => !before.has(x.id))!.id)
}

function changeCue(id: number, side: SlotSide, byFrames: number): void {
  const cue = cues.value.find((c) => c.id === id)
  const moved = cue && rate.value && slotMoved(cue, side, byFrames, rate.value)
  if (moved) void spotting.changeCue(id, moved)
}

/** A bar that is pressed is the one from which on the tempo map is changed. */
function pickBar(atS: number): void {
  tab.value = 'tempo'
  player.seek(atS)
}

function toHit(back: boolean): void {
  const hits = sheet.value?.hits ?? []
  const now = nowFrame()
  const next = back ? hits.filter((h) => h.at_frames < now).at(-1) : hits.find((h) => h.at_frames > now)
  if (next) selectHit(next.id)
}

/** By frames from the one that shows; playing stops. */
function stepFrames(frames: number): void {
  const p = picture.value
  if (!p) return
  player.stop()
  shuttle.letGo()
  goTo(Math.min(Math.max(0, nowFrame() + frames), p.length_frames - 1))
}

function nextUnit(): void {
  unit.value = TIME_UNITS[(TIME_UNITS.indexOf(unit.value) + 1) % TIME_UNITS.length]!
}

function toggleLoop(): void {
  if (player.loop.value) return void (player.loop.value = null)
  if (!inOut.span.value)
    return void (session.message.value = 'Mark in and out with I and O first; Y then plays between them.')
  player.loop.value = inOut.span.value
}

const cutAt = (edit: 'cut' | 'join') => void spotting.edit({ edit, at_frames: nowFrame() })
const shotStep = (edit: 'accept_cuts' | 'drop_cuts', frames: number[] | null) =>
  void spotting.edit({ edit, frames })

useKeys(() => [
  { key: 'j', run: () => shuttle.push(true) },
  { key: 'k', run: () => shuttle.stop() },
  { key: 'l', run: () => shuttle.push(false) },
  { key: 'm', run: () => void markHit() },
  { key: 'i', shift: false, run: () => inOut.setIn(nowFrame()) },
  { key: 'o', shift: false, run: () => inOut.setOut(nowFrame() + 1) },
  { key: 'i', shift: true, run: () => goTo(inOut.inFrames.value ?? 0) },
  {
    key: 'o',
    shift: true,
    run: () => goTo((inOut.outFrames.value ?? picture.value?.length_frames ?? 1) - 1),
  },
  { key: 'p', run: () => inOut.clear() },
  { key: 'y', run: toggleLoop },
  { key: 'c', shift: false, run: () => void addCue(false) },
  { key: 'c', shift: true, run: () => void addCue(true) },
  { key: 'd', run: () => void addLine() },
  { key: 'x', shift: false, run: () => cutAt('cut') },
  { key: 'x', shift: true, run: () => cutAt('join') },
  { key: 'n', run: () => withSelected('snap_hits') },
  { key: 'u', run: nextUnit },
  { key: 't', run: () => (tab.value = tab.value === 'tempo' ? 'hits' : 'tempo') },
  { key: ',', run: () => nudge(-1) },
  { key: '.', run: () => nudge(1) },
  { key: ';', run: () => nudge(-10) },
  { key: '<', run: () => nudge(-10) },
  { key: '>', run: () => nudge(10) },
  { key: 'Delete', run: removeChosen },
  { key: 'Backspace', run: removeChosen },
  { key: 'Enter', run: () => selected.value.size && void table.value?.editHit([...selected.value][0]!) },
  { key: 'Escape', run: () => (selected.value = new Set()) },
  { key: 'ArrowUp', run: () => toHit(true) },
  { key: 'ArrowDown', run: () => toHit(false) },
  { key: 'ArrowRight', shift: false, run: () => stepFrames(1) },
  { key: 'ArrowRight', shift: true, run: () => stepFrames(10) },
  { key: 'ArrowLeft', shift: false, run: () => stepFrames(-1) },
  { key: 'ArrowLeft', shift: true, run: () => stepFrames(-10) },
  ...laneKeys(() => lanes.value),
])
</script>

<template>
  <template v-if="picture && sheet">
    <div class="beside">
      <UploadList />
      <p v-for="note in picture.notes" :key="note" class="note" role="note">{{ note }}</p>
      <SpotTable
        ref="table"
        v-model:tab="tab"
        class="fill"
        :picture="picture"
        :sheet="sheet"
        :cues="cues"
        :selected="selected"
        :line-id="lineId"
        :cue-id="cueId"
        :unit="unit"
        @edit="(s) => void spotting.edit(s)"
        @select-hit="(id) => !selected.has(id) && selectHit(id)"
        @select-line="selectLine"
        @go-to="goTo"
        @place-cue="(id, frames) => void spotting.placeCue(id, frames ?? nowFrame())"
      >
        <template #tempo><TempoPanel v-model:click="isClicking" :tempo="tempo" /></template>
      </SpotTable>
    </div>
    <div class="under">
      <SpotBar
        v-model:unit="unit"
        v-model:snapping="isSnapping"
        :picture="picture"
        :suggested="sheet.suggested_cuts.length"
        :marked="inOut.frames.value"
        @hit="markHit"
        @in="inOut.setIn(nowFrame())"
        @out="inOut.setOut(nowFrame() + 1)"
        @cue="addCue(false)"
        @line="addLine"
        @accept="shotStep('accept_cuts', null)"
        @drop="shotStep('drop_cuts', null)"
        @zoom="(f) => lanes?.zoom(f)"
        @all="lanes?.showAll()"
      />
      <SpotLanes
        ref="lanes"
        :picture="picture"
        :sheet="sheet"
        :shots="shots ?? []"
        :cues="cues"
        :tracks="tracks ?? []"
        :clock="player"
        :in-frames="inOut.inFrames.value"
        :out-frames="inOut.outFrames.value"
        :selected="selected"
        :line-id="lineId"
        :cue-id="cueId"
        :unit="unit"
        :has-tempo="!!tempo.seen.value"
        :landed="tempo.landed.value"
        @seek="player.seek"
        @scrub="player.scrub"
        @select-hit="selectHit"
        @move-hit="moveHit"
        @remove-hit="removeHit"
        @select-line="selectLine"
        @remove-line="(id) => void spotting.edit({ edit: 'remove_lines', ids: [id] })"
        @select-cue="selectCue"
        @change-cue="changeCue"
        @remove-cue="spotting.removeCue"
        @accept-cut="(f) => shotStep('accept_cuts', [f])"
        @drop-cut="(f) => shotStep('drop_cuts', [f])"
      >
        <template #tempo="lane">
          <TempoLane v-bind="lane" :tempo="tempo" :picture="picture" :hits="sheet.hits" @pick="pickBar" />
        </template>
        <template #default="{ scale, lengthS }">
          <MapBars
            v-if="tempo.seen.value"
            :map="tempo.seen.value"
            :label="tempo.seenWords.value"
            :scale="scale"
            :until-s="lengthS"
            :has-numbers="false"
          />
        </template>
      </SpotLanes>
    </div>
  </template>
  <div v-else class="beside empty" role="status">
    {{
      session.production.value && !picture
        ? 'Drop a film anywhere on this page, or add a length from the menu above the picture.'
        : 'Opening the picture …'
    }}
  </div>
</template>

<style scoped>
.beside {
  grid-area: table;
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
  border-left: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.fill {
  flex: 1;
}
.note {
  margin: 0;
  padding: 8px 14px;
  font-size: 13px;
  color: rgb(var(--v-theme-primary));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.under {
  grid-area: lanes;
  min-width: 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.empty {
  justify-content: center;
  align-items: center;
  padding: 40px;
  font-size: 17px;
  text-align: center;
  opacity: 0.8;
}
</style>
