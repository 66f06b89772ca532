<script setup lang="ts">
import { mdiVolumeMedium } from '@mdi/js'
import { computed, type Ref } from 'vue'
import type { Levels } from './loudness'

/** How loud it is now, its true peak, and how far the loudspeaker is turned down. Files are not changed by that. */
const props = defineProps<{ levels: Readonly<Ref<Levels | null>>; isPlaying: boolean }>()
const monitorDb = defineModel<number>('monitorDb', { required: true })
const QUIETEST_LUFS = -50
const FULL_DB = -0.1

const levels = computed(() => (props.isPlaying ? props.levels.value : null))
const share = computed(() =>
  Math.max(0, Math.min(1, 1 - (levels.value?.lufs ?? QUIETEST_LUFS) / QUIETEST_LUFS)),
)
const figure = (value: number | null | undefined) =>
  value == null ? '–' : value.toFixed(1).replace('-', '−')
</script>

<template>
  <div class="meter figure" role="group" aria-label="Loudness">
    <svg class="icon" viewBox="0 0 24 24" aria-hidden="true"><path :d="mdiVolumeMedium" /></svg>
    <input
      v-model.number="monitorDb"
      type="range"
      min="-40"
      max="0"
      step="1"
      aria-label="Monitor level"
      :aria-valuetext="`${monitorDb} dB`"
      :title="`What you hear: ${monitorDb} dB. Files keep their own level. Double-click for 0 dB.`"
      @dblclick="monitorDb = 0"
    />
    <span class="bar" aria-hidden="true"><span :style="{ transform: `scaleX(${share})` }" /></span>
    <span class="value" title="Momentary loudness, over 400 ms">{{ figure(levels?.lufs) }} LUFS</span>
    <span
      class="value"
      :class="{ over: (levels?.truePeakDb ?? -99) > FULL_DB }"
      title="True peak, before the monitor level"
      >{{ figure(levels?.truePeakDb) }} dBTP</span
    >
  </div>
</template>

<style scoped>
.meter {
  display: flex;
  align-items: center;
  gap: 7px;
  min-width: 0;
  font-size: 12px;
}
.icon {
  width: 15px;
  flex: none;
  fill: currentColor;
  opacity: 0.7;
}
input {
  flex: none;
  width: 54px;
  accent-color: rgb(var(--v-theme-primary));
}
.bar {
  flex: 1;
  min-width: 20px;
  height: 6px;
  overflow: hidden;
  border-radius: 3px;
  background: rgba(var(--v-theme-on-surface), 0.12);
}
.bar span {
  display: block;
  height: 100%;
  background: rgb(var(--v-theme-secondary));
  transform-origin: left;
  transition: transform 0.1s linear;
}
.value {
  flex: none;
  width: 68px;
  text-align: right;
  white-space: nowrap;
  opacity: 0.8;
}
.over {
  color: rgb(var(--v-theme-error));
  opacity: 1;
}
</style>
