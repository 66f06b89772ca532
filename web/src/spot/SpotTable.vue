<script setup lang="ts">
import type { Carried, Cue, Hit, Line, Picture, SheetRead } from '@/api/client'
import type { SheetEdit } from '@/desks/useSheet'
import { HIT_WORDS, WEIGHT_WORDS } from '@/words/spotting'
import { formatFrame, type TimeUnit } from '@/time'
import { mdiClose } from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'
import CarriedList from './CarriedList.vue'
import CellField from '@/fields/CellField.vue'
import SpotCueForm from './SpotCueForm.vue'

const props = defineProps<{
  picture: Picture
  sheet: SheetRead
  cues: readonly Cue[]
  selected: ReadonlySet<number>
  lineId: number | null
  cueId: number | null
  unit: TimeUnit
}>()
const emit = defineEmits<{
  edit: [edit: SheetEdit]
  selectHit: [id: number]
  selectLine: [id: number]
  goTo: [frames: number]
  /** A cue that could not be carried; without a frame it goes where the picture is. */
  placeCue: [id: number, frames: number | null]
}>()
const tab = defineModel<string>('tab', { required: true })
const root = ref<HTMLElement | null>(null)
const ROW_PX = 34

const at = (frames: number) => formatFrame(frames, props.picture.rate, props.picture.start_frames, props.unit)
const carried = computed<Carried | null>(() => props.sheet.carried)
const cue = computed(() => props.cues.find((c) => c.id === props.cueId))

/** Up, down and Enter go to the same column of the next row. */
function onKey(event: KeyboardEvent): void {
  const field = event.target as HTMLInputElement
  const isText = field.matches('input')
  const row = field.closest<HTMLElement>('[data-row]')
  if (!row) return
  if (event.key === 'Delete' && event.ctrlKey) {
    event.preventDefault()
    row.querySelector<HTMLElement>('[data-remove]')?.click()
  } else if (event.key === 'Enter' || (isText && (event.key === 'ArrowDown' || event.key === 'ArrowUp'))) {
    event.preventDefault()
    const next = Number(row.dataset.row) + (event.key === 'ArrowUp' ? -1 : 1)
    focusCell(next, field.dataset.column ?? 'label', () => field.blur())
  }
}

function focusCell(row: number, column: string, otherwise: () => void = () => undefined): void {
  const cell = root.value?.querySelector<HTMLInputElement>(`[data-row="${row}"] [data-column="${column}"]`)
  if (!cell) return otherwise()
  cell.focus()
  if (cell.matches('input')) cell.select()
}

/** Name a hit that was just marked. */
async function editHit(id: number, column = 'label'): Promise<void> {
  tab.value = 'hits'
  await nextTick()
  focusCell(
    props.sheet.hits.findIndex((h) => h.id === id),
    column,
  )
}
watch(
  () => [props.selected, props.lineId] as const,
  async () => {
    await nextTick()
    root.value?.querySelector('.row.chosen')?.scrollIntoView({ block: 'nearest' })
  },
)
const hitEdit = (h: Hit, fields: object, revision?: number) =>
  ({ edit: 'change_hit', id: h.id, revision, ...fields }) as SheetEdit
const lineEdit = (x: Line, fields: object, revision?: number) =>
  ({ edit: 'change_line', id: x.id, revision, ...fields }) as SheetEdit
const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
defineExpose({ editHit })
/** Only silences have an end: without one, its column is left to the labels. */
const hasSilences = computed(() => props.sheet.hits.some((hit) => hit.until_frames !== null))
</script>

<template>
  <section ref="root" class="table" aria-label="Spotting table">
    <v-tabs v-model="tab" density="compact" height="40" color="primary">
      <v-tab value="hits"
        >Hits <span class="count">{{ sheet.hits.length }}</span></v-tab
      >
      <v-tab value="lines"
        >Lines <span class="count">{{ sheet.lines.length }}</span></v-tab
      >
      <v-tab value="cue"
        >Cue <span class="count">{{ cue?.number }}</span></v-tab
      >
      <v-tab value="tempo">Tempo</v-tab>
      <v-tab v-if="carried" value="carried">What moved</v-tab>
    </v-tabs>
    <div v-if="tab === 'hits'" class="sheet" @keydown="onKey">
      <div class="row head">
        <span class="time">At</span><span class="label">Label</span><span class="kind">Meets</span>
        <span class="weight">Weight</span
        ><span class="frames" title="How many frames off is still good">±</span
        ><span v-if="hasSilences" class="until">Until</span>
      </div>
      <v-virtual-scroll v-if="sheet.hits.length" class="rows" :items="sheet.hits" :item-height="ROW_PX">
        <template #default="{ item: h, index }">
          <div
            class="row"
            :class="{ chosen: selected.has(h.id) }"
            :data-row="index"
            @focusin="emit('selectHit', h.id)"
          >
            <CellField
              class="time figure"
              data-column="time"
              :value="at(h.at_frames)"
              :aria-label="`Time of hit ${index + 1}`"
              :revision="sheet.revision"
              @set="(text: string, seen?: number) => emit('edit', hitEdit(h, { at: text }, seen))"
            />
            <CellField
              class="label"
              data-column="label"
              :value="h.label"
              maxlength="300"
              :aria-label="`Label of hit ${index + 1}`"
              :revision="sheet.revision"
              @set="(text: string, seen?: number) => emit('edit', hitEdit(h, { label: text }, seen))"
            />
            <select
              class="kind"
              data-column="kind"
              :value="h.kind"
              :aria-label="`What hit ${index + 1} meets`"
              @change="emit('edit', hitEdit(h, { kind: valueOf($event) }, sheet.revision))"
            >
              <option v-for="(words, kind) in HIT_WORDS" :key="kind" :value="kind">{{ words }}</option>
            </select>
            <select
              class="weight"
              data-column="weight"
              :value="h.weight"
              :aria-label="`Weight of hit ${index + 1}`"
              @change="emit('edit', hitEdit(h, { weight: valueOf($event) }, sheet.revision))"
            >
              <option v-for="(words, weight) in WEIGHT_WORDS" :key="weight" :value="weight">
                {{ words }}
              </option>
            </select>
            <CellField
              class="frames figure"
              data-column="frames"
              type="number"
              min="0"
              max="1000"
              :value="h.tolerance_frames"
              :aria-label="`Tolerance of hit ${index + 1} in frames`"
              :revision="sheet.revision"
              @set="
                (t: string, seen?: number) =>
                  emit(
                    'edit',
                    hitEdit(h, { tolerance_frames: Math.max(0, Math.round(Number(t) || 0)) }, seen),
                  )
              "
            />
            <CellField
              v-if="h.until_frames !== null"
              class="until figure"
              data-column="until"
              :value="at(h.until_frames)"
              :aria-label="`End of silence ${index + 1}`"
              :revision="sheet.revision"
              @set="(text: string, seen?: number) => emit('edit', hitEdit(h, { until: text }, seen))"
            />
            <span v-else-if="hasSilences" class="until" />
            <button
              class="remove"
              data-remove
              :aria-label="`Remove hit ${index + 1}`"
              title="Take it away (Ctrl Delete)"
              @click="emit('edit', { edit: 'remove_hits', ids: [h.id] })"
            >
              <v-icon :icon="mdiClose" size="14" />
            </button>
          </div>
        </template>
      </v-virtual-scroll>
      <p v-else class="empty quiet">
        Nothing to hit yet. Play the picture and press M whenever the music has to meet something; each mark
        can be named and moved afterwards.
      </p>
    </div>
    <div v-else-if="tab === 'lines'" class="sheet" @keydown="onKey">
      <div class="row head">
        <span class="time">From</span><span class="time">To</span><span class="label">Words</span>
      </div>
      <v-virtual-scroll v-if="sheet.lines.length" class="rows" :items="sheet.lines" :item-height="ROW_PX">
        <template #default="{ item: x, index }">
          <div
            class="row"
            :class="{ chosen: x.id === lineId }"
            :data-row="index"
            @focusin="emit('selectLine', x.id)"
          >
            <CellField
              v-for="side in ['start', 'end'] as const"
              :key="side"
              class="time figure"
              :data-column="side"
              :value="at(x[`${side}_frames`])"
              :aria-label="`${side === 'start' ? 'Start' : 'End'} of line ${index + 1}`"
              :revision="sheet.revision"
              @set="(text: string, seen?: number) => emit('edit', lineEdit(x, { [side]: text }, seen))"
            />
            <CellField
              class="label"
              data-column="label"
              :value="x.text"
              maxlength="2000"
              :aria-label="`Words of line ${index + 1}`"
              placeholder="what is said"
              :revision="sheet.revision"
              @set="(text: string, seen?: number) => emit('edit', lineEdit(x, { text }, seen))"
            />
            <button
              class="remove"
              data-remove
              :aria-label="`Remove line ${index + 1}`"
              title="Take it away (Ctrl Delete)"
              @click="emit('edit', { edit: 'remove_lines', ids: [x.id] })"
            >
              <v-icon :icon="mdiClose" size="14" />
            </button>
          </div>
        </template>
      </v-virtual-scroll>
      <p v-else class="empty quiet">
        No lines yet. Mark in and out with I and O and press D, drop a caption file (SRT, WebVTT), or have
        them found in the picture's own sound or a narration.
      </p>
    </div>
    <SpotCueForm v-else-if="tab === 'cue' && cue" :key="cue.id" :cue="cue" :at="at" :picture="picture" />
    <p v-else-if="tab === 'cue'" class="empty quiet">
      No cue is chosen. Mark in and out with I and O and press C; without marks the cue takes the shot you are
      in, or with Shift C the whole picture.
    </p>
    <slot v-else-if="tab === 'tempo'" name="tempo" />
    <CarriedList
      v-else-if="carried"
      :carried="carried"
      :at="at"
      @go-to="(f) => emit('goTo', f)"
      @place="(id, frames) => emit('placeCue', id, frames)"
    />
  </section>
</template>

<style scoped>
.table {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
}
.count {
  margin-left: 6px;
  opacity: 0.65;
  font-variant-numeric: tabular-nums;
}
.sheet {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  font-size: 13px;
}
.rows {
  flex: 1;
  min-height: 0;
}
.row {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 34px;
  padding: 0 8px 0 12px;
}
.head {
  height: 26px;
  font-size: 12px;
  opacity: 0.75;
}
.chosen {
  background: rgba(var(--v-theme-primary), 0.14);
}
input,
select {
  min-width: 0;
  height: 27px;
  padding: 0 6px;
  color: inherit;
  background: transparent;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  border-radius: 4px;
  outline: none;
}
select option {
  background: rgb(var(--v-theme-surface-bright));
}
input:focus,
select:focus {
  border-color: rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-surface-bright));
}
.time,
.until {
  flex: none;
  width: 92px;
}
.until {
  width: 94px;
}
.label {
  flex: 1;
}
.kind {
  flex: none;
  width: 106px;
}
.weight {
  flex: none;
  width: 74px;
}
.frames {
  flex: none;
  width: 46px;
}
.remove {
  flex: none;
  background: none;
  border: 0;
  cursor: pointer;
  width: 22px;
  opacity: 0.55;
}
.remove:hover,
.remove:focus-visible {
  opacity: 1;
}
.empty {
  padding: 26px 30px;
  font-size: 15px;
  line-height: 1.5;
}
</style>
