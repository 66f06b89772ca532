<script setup lang="ts">
import type { Carried, Cue, Picture, SheetRead } from '@/api/client'
import type { SheetEdit } from '@/desks/useSheet'
import { formatFrame, type TimeUnit } from '@/time'
import { computed, nextTick, ref } from 'vue'
import CarriedList from './CarriedList.vue'
import HitTable from './HitTable.vue'
import LineTable from './LineTable.vue'
import SpotCueForm from './SpotCueForm.vue'
import type { Tab } from './useChosen'

/** What is spotted, in words and figures: a tab for hits, lines, the cue, the tempo, and what moved in a new version. */
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
const tab = defineModel<Tab>('tab', { required: true })
const hits = ref<InstanceType<typeof HitTable> | null>(null)

const at = (frames: number) => formatFrame(frames, props.picture.rate, props.picture.start_frames, props.unit)
const carried = computed<Carried | null>(() => props.sheet.carried)
const cue = computed(() => props.cues.find((c) => c.id === props.cueId))

/** Name a hit that was just marked. */
async function editHit(id: number): Promise<void> {
  tab.value = 'hits'
  await nextTick()
  hits.value?.edit(id)
}
defineExpose({ editHit })
</script>

<template>
  <section class="table" aria-label="Spotting table">
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
    <HitTable
      v-if="tab === 'hits'"
      ref="hits"
      :sheet="sheet"
      :selected="selected"
      :at="at"
      @edit="(edit) => emit('edit', edit)"
      @select="(id) => emit('selectHit', id)"
    />
    <LineTable
      v-else-if="tab === 'lines'"
      :sheet="sheet"
      :line-id="lineId"
      :at="at"
      @edit="(edit) => emit('edit', edit)"
      @select="(id) => emit('selectLine', id)"
    />
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
.empty {
  padding: 26px 30px;
  font-size: 15px;
  line-height: 1.5;
}
</style>
