<script setup lang="ts">
import { formatTimecode, secondsToFrame } from '@/time'
import { useWorkbench } from '@/workbench'
import { mdiPause, mdiPlay, mdiSkipBackward, mdiSkipForward } from '@mdi/js'
import { computed } from 'vue'

const { picture, cue, player, slotS, fit } = useWorkbench()
const timecode = computed(() => {
  const p = picture.value
  if (!p) return '--:--:--:--'
  const at = p.start_frames + (cue.value?.slot_start_frames ?? 0) + secondsToFrame(player.nowS.value, p.rate)
  return formatTimecode(at, p.rate)
})
const about = computed(() => {
  const p = picture.value
  if (!p) return ''
  const fps = (p.rate.num / p.rate.den).toFixed(p.rate.den === 1 ? 0 : 3)
  return `${formatTimecode(p.length_frames, p.rate)} at ${fps} frames a second`
})
</script>

<template>
  <section class="panel" aria-label="Picture">
    <div class="name">{{ picture?.name ?? 'No picture yet' }}</div>
    <div class="timecode figure" aria-label="Position">{{ timecode }}</div>
    <div class="quiet about figure">{{ about }}. The film itself comes with Spot.</div>
    <div class="transport">
      <v-btn
        :icon="mdiSkipBackward"
        size="small"
        title="To the start (Home)"
        aria-label="To the start"
        @click="player.seek(0)"
      />
      <v-btn
        :icon="player.isPlaying.value ? mdiPause : mdiPlay"
        color="primary"
        variant="flat"
        :disabled="!fit?.plan"
        :title="player.isPlaying.value ? 'Pause (Space)' : 'Play (Space)'"
        :aria-label="player.isPlaying.value ? 'Pause' : 'Play'"
        @click="player.toggle"
      />
      <v-btn
        :icon="mdiSkipForward"
        size="small"
        title="To the end (End)"
        aria-label="To the end"
        @click="player.seek(slotS)"
      />
      <div v-if="player.failure.value" class="failure" role="alert">{{ player.failure.value }}</div>
    </div>
  </section>
</template>

<style scoped>
.panel {
  padding: 12px 14px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  flex: none;
}
.name {
  font-weight: 600;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.timecode {
  font-size: 38px;
  line-height: 1.25;
  letter-spacing: 0.01em;
  font-weight: 300;
}
.about {
  font-size: 13px;
}
.transport {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 10px;
}
.failure {
  font-size: 13px;
  color: rgb(var(--v-theme-error));
}
</style>
