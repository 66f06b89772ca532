<script setup lang="ts">
import type { Chart, Track } from '@/api/client'
import { asHeard, howSure } from '@/drawing/chart'
import { useSession, useFitDesk, useTransport } from '@/desks/workbench'
import { mdiMetronome } from '@mdi/js'
import { computed, ref, watch } from 'vue'

const props = defineProps<{ track: Track; chart: Chart; taps: number }>()
const emit = defineEmits<{ tap: []; beatOne: [] }>()
const { updateTrack } = useSession()
const { correct } = useFitDesk()
const { click } = useTransport()

const METERS = ['2/4', '3/4', '4/4', '5/4', '6/4', '7/4', '6/8', '9/8', '12/8'] as const
const tempo = ref<HTMLInputElement | null>(null)
const meter = ref<HTMLSelectElement | null>(null)
const text = ref('')
const isEditing = ref(false)
let edits = 0 // an answer to what was typed before must not disturb what is typed now
const shown = computed(() => (props.chart.free_time ? '' : props.chart.tempo_bpm.toFixed(1)))
watch(
  [shown, isEditing],
  () => {
    if (!isEditing.value) text.value = shown.value
  },
  { immediate: true },
)

async function leave(): Promise<void> {
  if (!isEditing.value) return
  const bpm = Number(text.value.replace(',', '.').replace(/\s*bpm\s*$/i, ''))
  const isNew = text.value.trim() !== shown.value && Number.isFinite(bpm) && bpm > 0
  const mine = edits
  if (isNew) await correct.edit({ kind: 'tempo', bpm })
  if (mine === edits) isEditing.value = false
}
function begin(): void {
  edits++
  isEditing.value = true
  tempo.value?.select()
}
function giveUp(): void {
  isEditing.value = false
  tempo.value?.blur()
}
function setMeter(event: Event): void {
  const chosen = (event.target as HTMLSelectElement).value as (typeof METERS)[number]
  void correct.edit({ kind: 'meter', meter: chosen })
  meter.value?.blur()
}
const title = ref('')
watch(
  () => props.track.title,
  (now) => (title.value = now),
  { immediate: true },
)
function rename(): void {
  if (title.value.trim() && title.value !== props.track.title)
    void updateTrack(props.track.id, { title: title.value.trim(), revision: props.track.revision })
  else title.value = props.track.title
}
defineExpose({ focusTempo: () => tempo.value?.focus(), focusMeter: () => meter.value?.focus() })
</script>

<template>
  <div class="bar">
    <img
      v-if="track.has_cover"
      class="cover"
      :src="`/api/tracks/${track.id}/cover`"
      :alt="`Cover of ${track.title}`"
    />
    <div class="name">
      <input
        v-model="title"
        class="title"
        aria-label="Title of the track"
        title="Rename the track"
        @blur="rename"
        @keydown.enter.prevent="($event.target as HTMLInputElement).blur()"
      />
      <div class="quiet small" :title="howSure(chart)">
        {{
          chart.corrected.length
            ? `corrected: ${chart.corrected.join(', ').replaceAll('_', ' ')}`
            : asHeard(chart)
        }}
      </div>
    </div>
    <div class="group">
      <input
        ref="tempo"
        v-model="text"
        class="figure tempo"
        aria-label="Tempo in bpm"
        title="Type a tempo for an even grid (P)"
        placeholder="free"
        autocomplete="off"
        @focus="begin"
        @blur="leave"
        @keydown.enter.prevent="tempo?.blur()"
        @keydown.esc.prevent="giveUp"
      />
      <span class="quiet">bpm</span>
      <v-btn
        size="small"
        title="Half the tempo (H)"
        :disabled="chart.free_time"
        @click="correct.edit({ kind: 'halve' })"
        >Halve</v-btn
      >
      <v-btn
        size="small"
        title="Twice the tempo (Shift H)"
        :disabled="chart.free_time"
        @click="correct.edit({ kind: 'double' })"
        >Double</v-btn
      >
      <v-btn
        size="small"
        title="Tap once on every beat while it plays, the first on beat one (T)"
        @click="emit('tap')"
        >{{ taps ? `Tap ${taps}` : 'Tap' }}</v-btn
      >
    </div>
    <div class="group">
      <select
        ref="meter"
        aria-label="Metre"
        title="Metre (M)"
        :value="chart.free_time ? '' : chart.meter"
        :disabled="chart.free_time"
        @change="setMeter"
      >
        <option v-if="chart.free_time" value="">free</option>
        <option v-for="m in METERS" :key="m">{{ m }}</option>
      </select>
      <v-btn
        size="small"
        title="The beat at the playhead is beat one of its bar (B)"
        :disabled="chart.free_time"
        @click="emit('beatOne')"
        >Beat one</v-btn
      >
    </div>
    <v-btn
      size="small"
      :prepend-icon="mdiMetronome"
      :color="click ? 'primary' : undefined"
      :aria-pressed="click"
      title="A click on every beat, higher on beat one (C)"
      @click="click = !click"
      >Click</v-btn
    >
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  min-height: 62px;
  padding: 0 16px;
  flex: none;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.cover {
  width: 44px;
  height: 44px;
  border-radius: 4px;
  object-fit: cover;
}
.name {
  flex: 1 1 150px;
  min-width: 120px;
}
.name .small {
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.title {
  width: 100%;
  font-size: 17px;
  font-weight: 600;
  color: inherit;
  border: none;
  background: none;
  text-overflow: ellipsis;
}
.title:focus {
  background: rgb(var(--v-theme-surface-bright));
}
.group {
  display: flex;
  align-items: center;
  gap: 6px;
}
.tempo {
  width: 74px;
  font-size: 17px;
  text-align: right;
}
.tempo,
select {
  padding: 4px 8px;
  border-radius: 6px;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.25);
  color: inherit;
}
select {
  font-size: 15px;
}
/* Where there is little room the bar is two lines, and everything in it can still be reached. */
@media (max-width: 1150px) {
  .bar {
    flex-wrap: wrap;
    gap: 4px 10px;
    padding-block: 6px;
  }
  .name {
    flex-basis: 100%;
  }
}
</style>
