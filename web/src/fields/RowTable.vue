<script setup lang="ts" generic="Row extends { id: number }">
import { mdiClose } from '@mdi/js'
import { nextTick, ref, watch } from 'vue'

/**
 * A long table that is typed into: a row a thing, of which few are drawn at a time. Up, down and Enter go to the same column of
 * the next row, Ctrl Delete takes a row away. What is typed into names its column as `data-column`.
 */
const props = defineProps<{
  rows: readonly Row[]
  /** What one of them is called: “hit”. */
  name: string
  chosen: (row: Row) => boolean
}>()
const emit = defineEmits<{ focus: [id: number]; remove: [id: number] }>()
defineSlots<{
  head(): unknown
  row(of: { row: Row; number: number }): unknown
  empty(): unknown
}>()
const ROW_PX = 34
const root = ref<HTMLElement | null>(null)

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
    if (!focusCell(next, field.dataset.column)) field.blur()
  }
}

/** Whether there is such a cell. */
function focusCell(index: number, column = 'label'): boolean {
  const cell = root.value?.querySelector<HTMLInputElement>(`[data-row="${index}"] [data-column="${column}"]`)
  cell?.focus()
  if (cell?.matches('input')) cell.select()
  return !!cell
}

watch(
  () => props.rows.find(props.chosen)?.id,
  async () => {
    await nextTick()
    root.value?.querySelector('.row.chosen')?.scrollIntoView({ block: 'nearest' })
  },
)
defineExpose({ edit: (id: number) => focusCell(props.rows.findIndex((row) => row.id === id)) })
</script>

<template>
  <div ref="root" class="sheet" @keydown="onKey">
    <div class="row head"><slot name="head" /></div>
    <v-virtual-scroll v-if="rows.length" class="rows" :items="rows" :item-height="ROW_PX">
      <template #default="{ item, index }">
        <div
          class="row"
          :class="{ chosen: chosen(item) }"
          :data-row="index"
          @focusin="emit('focus', item.id)"
        >
          <slot name="row" :row="item" :number="index + 1" />
          <button
            class="remove"
            data-remove
            :aria-label="`Remove ${name} ${index + 1}`"
            title="Take it away (Ctrl Delete)"
            @click="emit('remove', item.id)"
          >
            <v-icon :icon="mdiClose" size="14" />
          </button>
        </div>
      </template>
    </v-virtual-scroll>
    <p v-else class="empty quiet"><slot name="empty" /></p>
  </div>
</template>

<style scoped>
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
.sheet :deep(input),
.sheet :deep(select) {
  min-width: 0;
  height: 27px;
  padding: 0 6px;
  color: inherit;
  background: transparent;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.14);
  border-radius: 4px;
  outline: none;
}
.sheet :deep(select option) {
  background: rgb(var(--v-theme-surface-bright));
}
.sheet :deep(input:focus),
.sheet :deep(select:focus) {
  border-color: rgb(var(--v-theme-primary));
  background: rgb(var(--v-theme-surface-bright));
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
