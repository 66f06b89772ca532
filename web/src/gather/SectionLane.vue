<script setup lang="ts">
import type { Chart } from '@/api/client'
import { toPx, toS, type TimeScale } from '@/drawing/scale'
import { sectionColor } from '@/look/theme'
import { useDrag } from '@/lanes/useDrag'
import { formatClock } from '@/time'
import type { ChartEdit } from '@/desks/useCorrections'
import { computed, nextTick, ref } from 'vue'
import { useTheme } from 'vuetify'

const props = defineProps<{ chart: Chart; scale: TimeScale }>()
const emit = defineEmits<{ edit: [edit: ChartEdit] }>()
const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const renaming = ref<number | null>(null)
const text = ref('')
const field = ref<HTMLInputElement[]>([])

const parts = computed(() =>
  props.chart.sections.map((s, index) => {
    const left = toPx(props.scale, s.start_samples / props.chart.rate)
    const right = toPx(props.scale, s.end_samples / props.chart.rate)
    return { ...s, index, left, width: Math.max(2, right - left), fromS: s.start_samples / props.chart.rate }
  }),
)

async function rename(index: number): Promise<void> {
  text.value = props.chart.sections[index]!.label
  renaming.value = index
  await nextTick()
  field.value[0]?.select()
}
function named(): void {
  const index = renaming.value
  renaming.value = null
  if (index === null || text.value.trim() === props.chart.sections[index]?.label) return
  emit('edit', { kind: 'rename_section', index, label: text.value, at_samples: 0 })
}
/** The section whose beginning is in the hand. */
const held = ref<number | null>(null)
const drag = useDrag((px) => {
  const index = held.value!
  const at = Math.round(toS(props.scale, parts.value[index]!.left + px) * props.chart.rate)
  emit('edit', { kind: 'move_section', index, label: '', at_samples: Math.max(0, at) })
})
const shiftOf = (index: number) => (held.value === index ? drag.shiftPx.value : null)
</script>

<template>
  <div class="lane" role="group" aria-label="Sections">
    <div
      v-for="p in parts"
      :key="`${p.index} ${p.start_samples}`"
      class="part"
      :style="{
        left: `${p.left}px`,
        width: `${p.width - 1}px`,
        background: `color-mix(in srgb, ${sectionColor(p.label, dark)} 34%, transparent)`,
        borderColor: sectionColor(p.label, dark),
      }"
    >
      <input
        v-if="renaming === p.index"
        ref="field"
        v-model="text"
        aria-label="Name of the section"
        maxlength="40"
        @pointerdown.stop
        @blur="named"
        @keydown.enter.prevent="named"
        @keydown.esc.prevent="renaming = null"
      />
      <button
        v-else
        class="label"
        :aria-label="`Section ${p.label}${p.role ? `, ${p.role}` : ''}, from ${formatClock(p.fromS, 1)}. Rename`"
        title="Enter or double click renames; U joins it with the next one"
        @pointerdown.stop
        @dblclick="rename(p.index)"
        @keydown.enter.prevent.stop="rename(p.index)"
        @keydown.f2.prevent="rename(p.index)"
        @keydown.u.stop="emit('edit', { kind: 'merge_section', index: p.index, label: '', at_samples: 0 })"
      >
        {{ p.label }}<span v-if="p.role && p.width > 70" class="role">{{ p.role }}</span>
      </button>
      <span
        v-if="p.index"
        class="edge"
        :class="{ held: shiftOf(p.index) !== null }"
        :style="{ transform: `translateX(${shiftOf(p.index) ?? 0}px)` }"
        title="Drag to another bar"
        @pointerdown.capture="held = p.index"
        v-on="drag.on"
      />
    </div>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
  height: 30px;
  flex: none;
}
.role {
  margin-left: 6px;
  font-weight: 400;
  opacity: 0.75;
}
.part {
  position: absolute;
  top: 2px;
  bottom: 2px;
  border-left: 2px solid;
  border-radius: 2px;
}
.label {
  width: 100%;
  height: 100%;
  padding: 0 6px;
  text-align: left;
  font-weight: 700;
  font-size: 14px;
  color: inherit;
  background: none;
  border: none;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.label:focus-visible {
  outline-offset: -2px;
}
input {
  width: 100%;
  min-width: 60px;
  height: 100%;
  padding: 0 6px;
  color: inherit;
  background: rgb(var(--v-theme-surface-bright));
  border: none;
}
.edge {
  position: absolute;
  left: -5px;
  top: 0;
  bottom: 0;
  width: 8px;
  cursor: ew-resize;
  touch-action: none;
}
.edge.held {
  background: rgb(var(--v-theme-primary));
}
</style>
