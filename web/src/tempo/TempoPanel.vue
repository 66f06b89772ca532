<script setup lang="ts">
import type { useTempo } from './useTempo'
import FindTempo from './FindTempo.vue'
import MapPanel from './MapPanel.vue'

/** The tempo of the picture: one is found, or the map that lies on it is changed. */
const props = defineProps<{ tempo: ReturnType<typeof useTempo> }>()
const isClicking = defineModel<boolean>('click', { required: true })
const { isOwn, showsOwn, laid } = props.tempo
</script>

<template>
  <div class="panel">
    <div v-if="laid.map.value" class="which" role="group" aria-label="What is seen">
      <button class="press" :aria-pressed="showsOwn" @click="isOwn = true">The picture's map</button>
      <button class="press" :aria-pressed="!showsOwn" @click="isOwn = false">Find a tempo</button>
      <span class="figure quiet" aria-label="The map in words">{{ laid.words.value }}</span>
    </div>
    <MapPanel v-if="showsOwn" v-model:click="isClicking" :tempo="tempo" />
    <FindTempo v-else v-model:click="isClicking" :tempo="tempo" />
  </div>
</template>

<style scoped>
.panel {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
  min-width: 0;
  width: 100%;
  container-type: inline-size;
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 8px 12px;
  font-size: 13px;
}
.which span {
  margin-left: 14px;
}
.panel :deep(label) {
  display: flex;
  align-items: center;
  gap: 6px;
}
.panel :deep(select),
.panel :deep(.field) {
  padding: 2px 6px;
  border-radius: 5px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.25);
  background: rgb(var(--v-theme-surface-bright));
  color: inherit;
}
.panel :deep(.scroll) {
  flex: 1 0 92px;
  overflow: auto;
}
.panel :deep(table) {
  border-collapse: collapse;
  white-space: nowrap;
}
.panel :deep(:is(th, td)) {
  padding: 3px 14px 3px 0;
  text-align: left;
}
.panel :deep(th) {
  position: sticky;
  top: 0;
  z-index: 1;
  font-weight: 500;
  font-size: 12px;
  background: rgb(var(--v-theme-background));
}
.panel :deep(.missed) {
  color: rgb(var(--v-theme-error));
}
.panel :deep(.off) {
  opacity: 0.7;
}
</style>
