<script setup lang="ts">
import SpotBar from './SpotBar.vue'
import SpotLanes from './SpotLanes.vue'
import SpotTable from './SpotTable.vue'
import MapBars from '@/tempo/MapBars.vue'
import TempoLane from '@/tempo/TempoLane.vue'
import TempoPanel from '@/tempo/TempoPanel.vue'
import UploadList from '@/library/UploadList.vue'
import { useChosen } from './useChosen'
import { useCuts } from './useCuts'
import { useFrameSteps } from './useFrameSteps'
import { useHits } from './useHits'
import { useSpans } from './useSpans'
import { useClick } from '@/transport/useClick'
import { useKeys } from '@/keys/useKeys'
import { laneKeys } from '@/lanes/useLaneStack'
import { useTempo } from '@/tempo/useTempo'
import { TIME_UNITS, type TimeUnit } from '@/time'
import { useSession, usePictureDesk, useCueDesk, useTransport } from '@/desks/workbench'
import { computed, ref, watch } from 'vue'

const session = useSession()
const { picture, spotting, slots, inOut } = usePictureDesk()
const { cues } = useCueDesk()
const { player } = useTransport()
const { sheet, shots } = spotting
const lanes = ref<InstanceType<typeof SpotLanes> | null>(null)
const table = ref<InstanceType<typeof SpotTable> | null>(null)
const unit = ref<TimeUnit>((localStorage.getItem('unit') as TimeUnit | null) ?? 'timecode')
watch(unit, (now) => localStorage.setItem('unit', now))

const frames = useFrameSteps()
const chosen = useChosen(frames)
const { tab, hitIds, lineId, cueId } = chosen
const hits = useHits(chosen, frames, (id) => void table.value?.editHit(id))
const { isSnapping } = hits
const spans = useSpans(chosen, frames)
const cuts = useCuts(frames)

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

/** A bar that is pressed is the one from which on the tempo map is changed. */
function pickBar(atS: number): void {
  tab.value = 'tempo'
  player.seek(atS)
}

function removeChosen(): void {
  if (hitIds.value.size) hits.removeChosen()
  else if (lineId.value !== null) void spotting.edit({ edit: 'remove_lines', ids: [lineId.value] })
  else if (cueId.value !== null) void slots.remove(cueId.value)
  lineId.value = null
}

function nextUnit(): void {
  unit.value = TIME_UNITS[(TIME_UNITS.indexOf(unit.value) + 1) % TIME_UNITS.length]!
}

useKeys(() => [
  { key: 'Delete', keys: 'Delete', words: 'Take away what is chosen', run: removeChosen },
  { key: 'Backspace', run: removeChosen },
  { key: 'Escape', run: () => (hitIds.value = new Set()) },
  {
    key: 't',
    keys: 'T',
    words: 'The tempi that meet the hits, and the tempo map',
    run: () => (tab.value = tab.value === 'tempo' ? 'hits' : 'tempo'),
  },
  { key: 'u', keys: 'U', words: 'Timecode, frames, feet and frames, seconds', run: nextUnit },
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
        :selected="hitIds"
        :line-id="lineId"
        :cue-id="cueId"
        :unit="unit"
        @edit="(s) => void spotting.edit(s)"
        @select-hit="(id) => !hitIds.has(id) && chosen.hit(id)"
        @select-line="chosen.line"
        @go-to="frames.goTo"
        @place-cue="(id, at) => void slots.place(id, at ?? frames.now())"
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
        @hit="hits.mark"
        @in="spans.setIn"
        @out="spans.setOut"
        @cue="spans.addCue(false)"
        @line="spans.addLine"
        @accept="cuts.accept(null)"
        @drop="cuts.drop(null)"
        @zoom="(f) => lanes?.zoom(f)"
        @all="lanes?.showAll()"
      />
      <SpotLanes
        ref="lanes"
        :picture="picture"
        :sheet="sheet"
        :shots="shots ?? []"
        :cues="cues"
        :tracks="session.tracks.value ?? []"
        :clock="player"
        :in-frames="inOut.inFrames.value"
        :out-frames="inOut.outFrames.value"
        :selected="hitIds"
        :line-id="lineId"
        :cue-id="cueId"
        :unit="unit"
        :has-tempo="!!tempo.seen.value"
        :landed="tempo.landed.value"
        @seek="player.seek"
        @scrub="player.scrub"
        @select-hit="chosen.hit"
        @move-hit="hits.move"
        @remove-hit="hits.remove"
        @select-line="chosen.line"
        @remove-line="(id) => void spotting.edit({ edit: 'remove_lines', ids: [id] })"
        @select-cue="chosen.cue"
        @change-cue="spans.changeCue"
        @remove-cue="slots.remove"
        @accept-cut="(f) => cuts.accept([f])"
        @drop-cut="(f) => cuts.drop([f])"
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
