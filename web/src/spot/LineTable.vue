<script setup lang="ts">
import type { Line, SheetRead } from '@/api/client'
import type { SheetEdit } from '@/desks/useSheet'
import CellField from '@/fields/CellField.vue'
import RowTable from '@/fields/RowTable.vue'

/** What is said on a picture: from when to when, and the words. */
defineProps<{ sheet: SheetRead; lineId: number | null; at: (frames: number) => string }>()
const emit = defineEmits<{ edit: [edit: SheetEdit]; select: [id: number] }>()
const SIDES = [
  ['start', 'Start'],
  ['end', 'End'],
] as const

const change = (line: Line, fields: object, revision?: number) =>
  emit('edit', { edit: 'change_line', id: line.id, revision, ...fields } as SheetEdit)
</script>

<template>
  <RowTable
    name="line"
    :rows="sheet.lines"
    :chosen="(line) => line.id === lineId"
    @focus="(id) => emit('select', id)"
    @remove="(id) => emit('edit', { edit: 'remove_lines', ids: [id] })"
  >
    <template #head>
      <span class="time">From</span><span class="time">To</span><span class="label">Words</span>
    </template>
    <template #row="{ row: line, number }">
      <CellField
        v-for="[side, name] in SIDES"
        :key="side"
        class="time figure"
        :data-column="side"
        :value="at(line[`${side}_frames`])"
        :aria-label="`${name} of line ${number}`"
        :revision="sheet.revision"
        @set="(text: string, seen?: number) => change(line, { [side]: text }, seen)"
      />
      <CellField
        class="label"
        data-column="label"
        :value="line.text"
        maxlength="2000"
        :aria-label="`Words of line ${number}`"
        placeholder="what is said"
        :revision="sheet.revision"
        @set="(text: string, seen?: number) => change(line, { text }, seen)"
      />
    </template>
    <template #empty>
      No lines yet. Mark in and out with I and O and press D, drop a caption file (SRT, WebVTT), or have them
      found in the picture's own sound or a narration.
    </template>
  </RowTable>
</template>

<style scoped>
.time {
  flex: none;
  width: 92px;
}
.label {
  flex: 1;
}
</style>
