<script setup lang="ts">
import type { Hit, SheetRead } from '@/api/client'
import type { SheetEdit } from '@/desks/useSheet'
import CellField from '@/fields/CellField.vue'
import RowTable from '@/fields/RowTable.vue'
import { HIT_WORDS, WEIGHT_WORDS } from '@/words/spotting'
import { computed, ref } from 'vue'

/** The hits of a picture: when, what they are called, what meets them, and how much that matters. */
const props = defineProps<{
  sheet: SheetRead
  selected: ReadonlySet<number>
  at: (frames: number) => string
}>()
const emit = defineEmits<{ edit: [edit: SheetEdit]; select: [id: number] }>()
const table = ref<{ edit: (id: number) => void } | null>(null)
/** Only silences have an end: without one, its column is left to the labels. */
const hasSilences = computed(() => props.sheet.hits.some((hit) => hit.until_frames !== null))

const change = (hit: Hit, fields: object, revision?: number) =>
  emit('edit', { edit: 'change_hit', id: hit.id, revision, ...fields } as SheetEdit)
const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
const framesIn = (text: string) => Math.max(0, Math.round(Number(text) || 0))
defineExpose({ edit: (id: number) => table.value?.edit(id) })
</script>

<template>
  <RowTable
    ref="table"
    name="hit"
    :rows="sheet.hits"
    :chosen="(hit) => selected.has(hit.id)"
    @focus="(id) => emit('select', id)"
    @remove="(id) => emit('edit', { edit: 'remove_hits', ids: [id] })"
  >
    <template #head>
      <span class="time">At</span><span class="label">Label</span><span class="kind">Meets</span>
      <span class="weight">Weight</span><span class="frames" title="How many frames off is still good">±</span
      ><span v-if="hasSilences" class="until">Until</span>
    </template>
    <template #row="{ row: hit, number }">
      <CellField
        class="time figure"
        data-column="time"
        :value="at(hit.at_frames)"
        :aria-label="`Time of hit ${number}`"
        :revision="sheet.revision"
        @set="(text: string, seen?: number) => change(hit, { at: text }, seen)"
      />
      <CellField
        class="label"
        data-column="label"
        :value="hit.label"
        maxlength="300"
        :aria-label="`Label of hit ${number}`"
        :revision="sheet.revision"
        @set="(text: string, seen?: number) => change(hit, { label: text }, seen)"
      />
      <select
        class="kind"
        data-column="kind"
        :value="hit.kind"
        :aria-label="`What hit ${number} meets`"
        @change="change(hit, { kind: valueOf($event) }, sheet.revision)"
      >
        <option v-for="(words, kind) in HIT_WORDS" :key="kind" :value="kind">{{ words }}</option>
      </select>
      <select
        class="weight"
        data-column="weight"
        :value="hit.weight"
        :aria-label="`Weight of hit ${number}`"
        @change="change(hit, { weight: valueOf($event) }, sheet.revision)"
      >
        <option v-for="(words, weight) in WEIGHT_WORDS" :key="weight" :value="weight">{{ words }}</option>
      </select>
      <CellField
        class="frames figure"
        data-column="frames"
        type="number"
        min="0"
        max="1000"
        :value="hit.tolerance_frames"
        :aria-label="`Tolerance of hit ${number} in frames`"
        :revision="sheet.revision"
        @set="(text: string, seen?: number) => change(hit, { tolerance_frames: framesIn(text) }, seen)"
      />
      <CellField
        v-if="hit.until_frames !== null"
        class="until figure"
        data-column="until"
        :value="at(hit.until_frames)"
        :aria-label="`End of silence ${number}`"
        :revision="sheet.revision"
        @set="(text: string, seen?: number) => change(hit, { until: text }, seen)"
      />
      <span v-else-if="hasSilences" class="until" />
    </template>
    <template #empty>
      Nothing to hit yet. Play the picture and press M whenever the music has to meet something; each mark can
      be named and moved afterwards.
    </template>
  </RowTable>
</template>

<style scoped>
.time {
  flex: none;
  width: 92px;
}
.until {
  flex: none;
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
</style>
