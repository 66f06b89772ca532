<script setup lang="ts">
import type { Outlook, Track } from '@/api/client'
import { formatClock, overOrShort, timeLeft } from '@/time'
import { mdiClose, mdiDeleteOutline, mdiFileCertificateOutline, mdiPlay, mdiRefresh, mdiStop } from '@mdi/js'
import { computed } from 'vue'
import MiniWave from './MiniWave.vue'

const props = defineProps<{
  track: Track
  slotS: number
  /** How it would do in the slot, once that is known. */
  outlook?: Outlook | null
  isChosen: boolean
  canChoose: boolean
  isHeard: boolean
}>()
defineEmits<{ choose: []; hear: []; remove: []; again: []; cancel: [jobId: number] }>()

const lengthS = computed(() => (props.track.n_samples ?? 0) / (props.track.rate_hz ?? 1))
const about = computed(() => {
  const t = props.track
  const time = t.free_time ? 'free time' : `${Math.round(t.tempo_bpm ?? 0)} bpm · ${t.meter}`
  return `${time} · ${t.key_name ?? ''}`
})
const inFull = computed(() => {
  const o = props.outlook
  if (!o) return ''
  const seams =
    o.seams === 0 ? 'no seam' : `${o.seams} ${o.seams === 1 ? 'seam' : 'seams, the worst'} ${o.grade}`
  const speed =
    Math.abs(o.speed_change_pct) < 0.1 ? 'its own speed' : `${Math.abs(o.speed_change_pct)} % of speed`
  return `Suits this slot: ${o.suits} of 100 (${seams}, ${speed})`
})
const aboutFile = computed(() => {
  const t = props.track
  const licence = t.licence && `licence ${t.licence.reference}, ${t.licence.name}: ${t.licence.terms}`
  return [t.file_name, t.artist, t.tags.join(', '), licence].filter(Boolean).join(' · ')
})
const job = computed(() => props.track.job)
const working = computed(() => {
  if (!job.value || job.value.state === 'waiting') return job.value?.stage || 'Waiting to be listened to'
  const left = timeLeft(job.value.elapsed_s, job.value.progress)
  return [job.value.stage || 'Starting', left].filter(Boolean).join(' · ')
})
</script>

<template>
  <div class="row" role="group" :aria-label="track.title" :class="{ chosen: isChosen }">
    <button
      class="choose"
      :disabled="track.state !== 'ready' || !canChoose"
      :aria-pressed="isChosen"
      :aria-label="`Fit ${track.title}`"
      :title="aboutFile"
      @click="$emit('choose')"
    >
      <span class="split">
        <span class="one-line"
          >{{ track.title
          }}<v-icon
            v-if="track.licence"
            :icon="mdiFileCertificateOutline"
            size="15"
            class="licensed"
            :aria-label="`Licensed: ${track.licence.name}`"
        /></span>
        <span v-if="track.state === 'ready'" class="figure">{{ formatClock(lengthS) }}</span>
      </span>
      <template v-if="track.state === 'ready'">
        <MiniWave
          :track-id="track.id"
          :slot-share="Math.min(1, slotS / lengthS)"
          :sections="track.sections"
          :n-samples="track.n_samples ?? 1"
        />
        <span class="split small">
          <span class="figure over"
            >{{ overOrShort(lengthS, slotS)
            }}<span v-if="outlook" class="outlook" :title="inFull">{{ outlook.words }}</span></span
          >
          <span class="quiet about">{{ about }}</span>
        </span>
      </template>
      <template v-else-if="track.state === 'listening'">
        <v-progress-linear
          :model-value="(job?.progress ?? 0) * 100"
          :indeterminate="job?.state !== 'running'"
          color="secondary"
          height="5"
          rounded
          class="my-2"
        />
        <span class="small quiet" role="status">{{ working }}</span>
      </template>
      <span v-else class="small failure">{{ job?.error ?? 'Listening was cancelled.' }}</span>
    </button>
    <div class="acts" :class="{ on: isHeard }">
      <v-btn
        v-if="track.state === 'ready'"
        :icon="isHeard ? mdiStop : mdiPlay"
        size="x-small"
        variant="text"
        :color="isHeard ? 'primary' : undefined"
        :aria-label="`${isHeard ? 'Stop' : 'Hear'} ${track.title}`"
        :title="isHeard ? 'Stop' : 'Hear this track'"
        @click="$emit('hear')"
      />
      <v-btn
        v-if="track.state === 'listening' && job"
        :icon="mdiClose"
        size="x-small"
        variant="text"
        :aria-label="`Stop listening to ${track.title}`"
        title="Stop listening"
        @click="$emit('cancel', job.id)"
      />
      <v-btn
        v-if="track.state === 'failed' || track.state === 'cancelled'"
        :icon="mdiRefresh"
        size="x-small"
        variant="text"
        :aria-label="`Listen to ${track.title} again`"
        title="Listen again"
        @click="$emit('again')"
      />
      <v-btn
        :icon="mdiDeleteOutline"
        size="x-small"
        variant="text"
        :aria-label="`Remove ${track.title}`"
        title="Remove this track"
        @click="$emit('remove')"
      />
    </div>
  </div>
</template>

<style scoped>
.row {
  position: relative;
  list-style: none;
  border-left: 3px solid transparent;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.07);
}
.row.chosen {
  background: rgb(var(--v-theme-surface-bright));
  border-left-color: rgb(var(--v-theme-primary));
}
.choose {
  display: block;
  width: 100%;
  padding: 8px 14px 8px 11px;
  text-align: left;
  background: none;
  border: none;
  color: inherit;
}
.choose:focus-visible {
  outline-offset: -2px;
}
.choose:not(:disabled):hover {
  background: rgba(var(--v-theme-on-surface), 0.05);
}
.licensed {
  margin-left: 5px;
  vertical-align: -2px;
  opacity: 0.7;
}
.over {
  color: rgb(var(--v-theme-primary));
  white-space: nowrap;
}
.outlook {
  margin-left: 9px;
  color: rgb(var(--v-theme-secondary));
}
.about {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  padding-left: 8px;
}
.acts {
  position: absolute;
  right: 54px;
  background: inherit;
  top: 5px;
  display: flex;
  opacity: 0;
}
.acts.on,
.row:hover .acts,
.row:focus-within .acts {
  opacity: 1;
}
</style>
