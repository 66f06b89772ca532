<script setup lang="ts">
import type { Track } from '@/api/client'
import { useSession, usePictureDesk, useCueDesk, useTransport } from '@/desks/workbench'
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { useForecasts } from './useForecasts'
import { useKeys } from '@/keys/useKeys'
import { found, noSearch } from './library'
import CatalogueDialog from './CatalogueDialog.vue'
import LibraryFilter from './LibraryFilter.vue'
import TrackRow from './TrackRow.vue'
import UploadList from './UploadList.vue'

const session = useSession()
const { tracks } = session
const pictureDesk = usePictureDesk()
const { uploads } = pictureDesk.uploads
const cueDesk = useCueDesk()
const { cue, slotS } = cueDesk
const transport = useTransport()
const picker = ref<HTMLInputElement | null>(null)
const folderPicker = ref<HTMLInputElement | null>(null)
const filter = ref<InstanceType<typeof LibraryFilter> | null>(null)
const search = ref(noSearch())
/** The sound of a picture is seldom what one looks for among the music: it comes last. */
const listed = computed(() => {
  const own = new Set(pictureDesk.pictures.value.map((p) => p.sound_track_id))
  const all = tracks.value ?? []
  return [...all.filter((t) => !own.has(t.id)), ...all.filter((t) => own.has(t.id))]
})
const library = computed(() => listed.value.map((t) => `${t.id}.${t.state}.${t.chart_id}`).join())
const { outlooks, progress } = useForecasts(
  () => cue.value,
  () => library.value,
)
const shown = computed(() => found(listed.value, search.value, slotS.value, outlooks.value))
const ROW_PX = 91
const isCatalogueOpen = ref(false)
useKeys(() => [
  { key: '/', keys: '/', words: 'Search the tracks', run: () => filter.value?.focus() },
  {
    key: 'q',
    keys: 'Q',
    words: 'Find licensed music in the catalogue',
    run: () => (isCatalogueOpen.value = true),
  },
])
const toRemove = ref<Track | null>(null)

async function choose(track: Track): Promise<void> {
  const refusal = await cueDesk.updateCue({ track_id: track.id })
  if (refusal) session.message.value = refusal
}

/** Hidden files of a folder are the system's own. */
function onPicked(event: Event): void {
  const input = event.target as HTMLInputElement
  void pictureDesk.uploads.add(
    [...(input.files ?? [])].filter((f) => !f.name.startsWith('.')),
    'track',
  )
  input.value = ''
}

async function remove(): Promise<void> {
  const track = toRemove.value
  toRemove.value = null
  if (track) await session.deleteTrack(track.id)
}
</script>

<template>
  <section class="tracks" aria-label="Tracks">
    <header class="head">
      <h2>Tracks</h2>
      <v-menu>
        <template #activator="{ props: opens }">
          <v-btn v-bind="opens" size="small" :prepend-icon="mdiPlus">Add</v-btn>
        </template>
        <v-list density="compact">
          <v-list-item title="Files" @click="picker?.click()" />
          <v-list-item title="A folder, with all in it" @click="folderPicker?.click()" />
          <v-list-item title="From the catalogue (Q)" @click="isCatalogueOpen = true" />
        </v-list>
      </v-menu>
      <input
        ref="picker"
        type="file"
        multiple
        accept="audio/*,video/mp4,video/quicktime"
        hidden
        data-adds="files"
        @change="onPicked"
      />
      <input ref="folderPicker" type="file" webkitdirectory hidden data-adds="folder" @change="onPicked" />
    </header>
    <LibraryFilter
      v-if="tracks?.length"
      ref="filter"
      v-model="search"
      :tracks="tracks"
      :count="shown.length"
    />
    <UploadList />
    <p v-if="progress" class="judging quiet" role="status">{{ progress }}</p>
    <v-virtual-scroll v-if="tracks?.length" class="list" :items="shown" :item-height="ROW_PX">
      <template #default="{ item: t }">
        <TrackRow
          :track="t"
          :slot-s="slotS"
          :outlook="outlooks.get(t.id) ?? null"
          :is-chosen="t.id === cue?.track_id"
          :can-choose="!!cue"
          :is-heard="transport.previewed.value?.id === t.id && transport.player.isPlaying.value"
          @choose="choose(t)"
          @hear="transport.preview(t)"
          @remove="toRemove = t"
          @again="session.listenAgain(t.id)"
          @cancel="session.cancelJob"
        />
      </template>
    </v-virtual-scroll>
    <p v-if="tracks?.length && !shown.length" class="empty quiet">
      No track is like that. Ask for less, or show all.
    </p>
    <ul v-if="!tracks?.length" class="list">
      <li v-if="tracks && !tracks.length && !uploads.length" class="empty">
        <p>No music yet.</p>
        <p class="quiet">
          Drop audio files or whole folders anywhere on this page, or press Add. WAV, AIFF, FLAC, Ogg, MP3,
          M4A and more can be read. Or find a licensed piece in the catalogue.
        </p>
      </li>
    </ul>
    <CatalogueDialog v-model="isCatalogueOpen" />
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
.judging {
  padding: 0 14px 8px;
  font-size: 12px;
}
.empty {
  list-style: none;
  padding: 28px 14px 8px;
  line-height: 1.5;
}
</style>
