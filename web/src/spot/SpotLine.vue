<script setup lang="ts">
import type { Line } from '@/api/client'

/** A dialogue line on the lanes. */
defineProps<{ line: Line; at: string; leftPx: number; widthPx: number; isSelected: boolean }>()
defineEmits<{ select: []; remove: [] }>()
</script>

<template>
  <div
    class="spoken"
    role="button"
    tabindex="0"
    :aria-pressed="isSelected"
    :class="{ selected: isSelected }"
    :style="{ transform: `translateX(${leftPx}px)`, width: `${widthPx}px` }"
    :aria-label="`Line at ${at}: ${line.text || 'no text'}`"
    :title="line.text || 'A line without text'"
    @pointerdown.stop="$emit('select')"
    @focus="$emit('select')"
    @keydown.delete.prevent.stop="$emit('remove')"
  >
    {{ widthPx > 24 ? line.text : '' }}
  </div>
</template>

<style scoped>
.spoken {
  position: absolute;
  left: 0;
  top: 3px;
  height: 22px;
  padding: 0 6px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  line-height: 20px;
  font-size: 12px;
  border: 1px solid rgba(var(--v-theme-info), 0.9);
  border-radius: 11px;
  background: rgba(var(--v-theme-info), 0.18);
  outline: none;
}
.spoken.selected,
.spoken:focus-visible {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: 0 0 0 1px rgb(var(--v-theme-primary));
}
</style>
