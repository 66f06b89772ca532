<script setup lang="ts">
import { formatClock, formatTimecode, secondsToFrame } from '@/time'
import { useWorkbench } from '@/workbench'
import { mdiPause, mdiPlay, mdiSkipBackward, mdiSkipForward } from '@mdi/js'
import { computed } from 'vue'

const { picture, cue, player, playable, heard, track, previewed } = useWorkbench()
const played = computed(() => previewed.value ?? (heard.value === 'track' ? track.value : null))
const endS = computed(() => (playable.value ? playable.value.lengthSamples / playable.value.rate : 0))
const timecode = computed(() => {
  if (played.value || heard.value === 'track') return formatClock(player.nowS.value, 2)
  const p = picture.value
  if (!p) return '--:--:--:--'
  const at = p.start_frames + (cue.value?.slot_start_frames ?? 0) + secondsToFrame(player.nowS.value, p.rate)
  return formatTimecode(at, p.rate)
})
const about = computed(() => {
  const p = picture.value
  if (played.value) return `in ${played.value.title}, ${formatClock(endS.value, 1)}`
  if (!p) return ''
  const fps = (p.rate.num / p.rate.den).toFixed(p.rate.den === 1 ? 0 : 3)
  return `${formatTimecode(p.length_frames, p.rate)} at ${fps} frames a second`
})
</script>

<template>
  <section class="panel" aria-label="Picture">
    <div class="name">{{ picture?.name ?? 'No picture yet' }}</div>
    <div class="timecode figure" aria-label="Position">{{ timecode }}</div>
    <div class="quiet about figure">{{ about }}</div>
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
        :disabled="!playable"
        :title="player.isPlaying.value ? 'Pause (Space)' : 'Play (Space)'"
        :aria-label="player.isPlaying.value ? 'Pause' : 'Play'"
        @click="player.toggle"
      />
      <v-btn
        :icon="mdiSkipForward"
        size="small"
        title="To the end (End)"
        aria-label="To the end"
        @click="player.seek(endS)"
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
