<script setup lang="ts">
import type { Track } from '@/api/client'
import { timeLeft } from '@/time'
import { useWorkbench } from '@/workbench'
import { mdiClose, mdiPlus } from '@mdi/js'
import { ref } from 'vue'
import TrackRow from './TrackRow.vue'

const bench = useWorkbench()
const { tracks, cue, slotS } = bench
const { uploads } = bench.uploads
const picker = ref<HTMLInputElement | null>(null)
const toRemove = ref<Track | null>(null)

async function choose(track: Track): Promise<void> {
  const refusal = await bench.updateCue({ track_id: track.id })
  if (refusal) bench.message.value = refusal
}

function onPicked(): void {
  void bench.uploads.add([...(picker.value?.files ?? [])])
  if (picker.value) picker.value.value = ''
}

async function remove(): Promise<void> {
  const track = toRemove.value
  toRemove.value = null
  if (track) await bench.deleteTrack(track.id)
}

function sending(progress: number, startedAtMs: number): string {
  return [
    `Adding, ${Math.round(progress * 100)} %`,
    timeLeft((performance.now() - startedAtMs) / 1000, progress),
  ]
    .filter(Boolean)
    .join(' · ')
}
</script>

<template>
  <section class="tracks" aria-label="Tracks">
    <header class="head">
      <h2>Tracks</h2>
      <v-btn size="small" :prepend-icon="mdiPlus" @click="picker?.click()">Add</v-btn>
      <input
        ref="picker"
        type="file"
        multiple
        accept="audio/*,video/mp4,video/quicktime"
        hidden
        @change="onPicked"
      />
    </header>
    <ul class="list">
      <li v-for="u in uploads" :key="u.id" class="upload" :class="u.state">
        <div class="split">
          <span class="one-line">{{ u.name }}</span>
          <v-btn
            :icon="mdiClose"
            size="x-small"
            variant="text"
            :aria-label="u.state === 'sending' ? `Stop adding ${u.name}` : `Put away ${u.name}`"
            @click="bench.uploads.remove(u.id)"
          />
        </div>
        <template v-if="u.state === 'sending'">
          <v-progress-linear
            :model-value="u.progress * 100"
            color="primary"
            height="5"
            rounded
            class="my-1"
          />
          <span class="small quiet">{{ sending(u.progress, u.startedAtMs) }}</span>
        </template>
        <span v-else class="small failure" role="alert">{{ u.reason }}</span>
      </li>
      <TrackRow
        v-for="t in tracks"
        :key="t.id"
        :track="t"
        :slot-s="slotS"
        :is-chosen="t.id === cue?.track_id"
        :can-choose="!!cue"
        @choose="choose(t)"
        @remove="toRemove = t"
        @again="bench.listenAgain(t.id)"
        @cancel="bench.cancelJob"
      />
      <li v-if="tracks && !tracks.length && !uploads.length" class="empty">
        <p>No music yet.</p>
        <p class="quiet">
          Drop audio files anywhere on this page, or press Add. WAV, AIFF, FLAC, Ogg, MP3 and M4A can be read.
        </p>
      </li>
    </ul>
    <v-dialog :model-value="!!toRemove" max-width="420" @update:model-value="toRemove = null">
      <v-card title="Remove this track?">
        <v-card-text>
          “{{ toRemove?.title }}” and its fits go from this production. Files that were saved stay where they
          are.
        </v-card-text>
        <v-card-actions>
          <v-spacer />
          <v-btn variant="text" @click="toRemove = null">Keep it</v-btn>
          <v-btn color="error" @click="remove">Remove</v-btn>
        </v-card-actions>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.tracks {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 8px 14px;
}
h2 {
  font-size: 15px;
  font-weight: 600;
}
.list {
  overflow-y: auto;
  flex: 1;
  padding: 0;
  margin: 0;
}
.upload,
.empty {
  list-style: none;
  padding: 8px 14px;
}
.empty {
  padding-top: 28px;
  line-height: 1.5;
}
</style>
