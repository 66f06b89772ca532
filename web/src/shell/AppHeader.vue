<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { STEPS } from './steps'
import { mdiKeyboardOutline, mdiRedoVariant, mdiThemeLightDark, mdiUndoVariant } from '@mdi/js'

defineProps<{ history?: Schemas['HistoryRead']; isDark: boolean }>()
const by = (who: string | undefined) => (who ? `, by ${who}` : '')
defineEmits<{ undo: []; redo: []; keys: []; theme: [] }>()
</script>

<template>
  <header class="bar">
    <div class="brand">
      <img src="/mark.svg" alt="" width="26" height="26" />
      <span>Even Seam</span>
    </div>
    <nav class="steps" aria-label="Steps">
      <router-link
        v-for="(step, i) in STEPS"
        :key="step.id"
        :to="`/${step.id}`"
        class="step"
        :class="{ later: !step.built }"
      >
        <span class="number">{{ i + 1 }}</span>{{ step.name }}
      </router-link>
    </nav>
    <div class="name"><slot /></div>
    <v-btn
      :icon="mdiUndoVariant"
      variant="text"
      size="small"
      :disabled="!history?.undo"
      :title="history?.undo ? `Undo ${history.undo}${by(history.undo_by)} (Ctrl Z)` : 'Nothing to undo'"
      aria-label="Undo"
      @click="$emit('undo')"
    />
    <v-btn
      :icon="mdiRedoVariant"
      variant="text"
      size="small"
      :disabled="!history?.redo"
      :title="history?.redo ? `Redo ${history.redo}${by(history.redo_by)} (Ctrl Shift Z)` : 'Nothing to redo'"
      aria-label="Redo"
      @click="$emit('redo')"
    />
    <v-btn
      :icon="mdiKeyboardOutline"
      variant="text"
      size="small"
      title="Keys (?)"
      aria-label="Keys"
      @click="$emit('keys')"
    />
    <v-btn
      :icon="mdiThemeLightDark"
      variant="text"
      size="small"
      :title="isDark ? 'Light theme' : 'Dark theme'"
      aria-label="Switch theme"
      @click="$emit('theme')"
    />
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 50px;
  padding: 0 10px 0 14px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  flex: none;
}
.brand {
  display: flex;
  align-items: center;
  gap: 9px;
  font-weight: 650;
  font-size: 17px;
  width: 292px;
  letter-spacing: 0.01em;
}
/* where there is less room, the name of the production needs it */
@media (max-width: 1180px) {
  .brand {
    width: auto;
    margin-right: 14px;
  }
}
.steps {
  display: flex;
  gap: 2px;
  height: 100%;
}
.step {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 12px;
  color: inherit;
  text-decoration: none;
  border-bottom: 3px solid transparent;
  font-size: 15px;
}
.step.later {
  opacity: 0.6;
}
.step.router-link-active {
  border-bottom-color: rgb(var(--v-theme-primary));
  opacity: 1;
}
.number {
  font-size: 12px;
  opacity: 0.7;
}
.name {
  flex: 1;
  min-width: 0;
  text-align: right;
  padding: 0 10px;
  overflow: hidden;
}
</style>
