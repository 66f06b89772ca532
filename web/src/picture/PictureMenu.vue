<script setup lang="ts">
import type { Picture } from '@/api/client'
import { formatClock, framesToSeconds } from '@/time'
import { letKeysGo } from '@/keys/useKeys'
import { usePictureDesk } from '@/desks/workbench'
import { mdiChevronDown } from '@mdi/js'
import { computed, ref } from 'vue'
import AddPictureDialog from './AddPictureDialog.vue'
import EditPictureDialog from './EditPictureDialog.vue'
import LikenessDialog from './LikenessDialog.vue'

/** The picture on screen by name, all others, and the ways in which one comes in. */
const pictureDesk = usePictureDesk()
const { picture, pictures, pictureId, lists } = pictureDesk
const filmPicker = ref<HTMLInputElement | null>(null)
const versionPicker = ref<HTMLInputElement | null>(null)
const isAdding = ref(false)
const isEditing = ref(false)

const lengthOf = (p: Picture) => formatClock(framesToSeconds(p.length_frames, p.rate), 1)
const sorted = computed(() => [...pictures.value].sort((a, b) => a.id - b.id))

function addFilms(event: Event): void {
  const input = event.target as HTMLInputElement
  void pictureDesk.uploads.add([...(input.files ?? [])], 'film')
  input.value = ''
}

function addVersion(event: Event): void {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file || !picture.value) return
  if (/\.(edl|otio|txt)$/i.test(file.name)) void lists.addVersion(picture.value.id, file)
  else void pictureDesk.uploads.add([file], 'film', picture.value.id)
}
</script>

<template>
  <v-menu @after-leave="letKeysGo">
    <template #activator="{ props: opens }">
      <v-btn
        v-bind="opens"
        class="name"
        variant="text"
        density="compact"
        :append-icon="mdiChevronDown"
        :title="picture?.name"
        aria-label="Choose a picture"
      >
        <span class="one-line">{{ picture?.name ?? 'No picture yet' }}</span>
      </v-btn>
    </template>
    <v-list density="compact" min-width="300">
      <v-list-item
        v-for="p in sorted"
        :key="p.id"
        :title="p.name"
        :subtitle="lengthOf(p)"
        :active="p.id === picture?.id"
        @click="pictureId = p.id"
      />
      <v-divider class="my-1" />
      <v-list-item title="Add a film …" @click="filmPicker?.click()" />
      <v-list-item title="Add a length or an edit list …" @click="isAdding = true" />
      <template v-if="picture">
        <v-list-item
          title="A new version of this picture …"
          subtitle="an edit list or a film; marks are carried along"
          @click="versionPicker?.click()"
        />
        <v-list-item title="Name, start timecode, remove …" @click="isEditing = true" />
      </template>
    </v-list>
  </v-menu>
  <input
    ref="filmPicker"
    type="file"
    multiple
    accept="video/*,.mkv,.mxf"
    hidden
    data-adds="film"
    @change="addFilms"
  />
  <input
    ref="versionPicker"
    type="file"
    accept=".edl,.otio,.txt,video/*,.mkv,.mxf"
    hidden
    data-adds="version"
    @change="addVersion"
  />
  <AddPictureDialog v-model="isAdding" />
  <EditPictureDialog v-if="picture" v-model="isEditing" :picture="picture" />
  <LikenessDialog v-if="picture" :picture="picture" @film="versionPicker?.click()" />
  <v-dialog
    :model-value="!!lists.elsewhere.value"
    max-width="480"
    @update:model-value="lists.elsewhere.value = null"
  >
    <v-card title="The list starts elsewhere">
      <v-card-text>{{ lists.elsewhere.value?.words }}</v-card-text>
      <v-card-actions>
        <v-spacer />
        <v-btn variant="text" @click="lists.elsewhere.value = null">Leave it</v-btn>
        <v-btn color="primary" @click="lists.elsewhere.value?.layOnStart()"
          >Lay it on the picture's start</v-btn
        >
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.name {
  justify-content: flex-start;
  max-width: 100%;
  margin-left: -8px;
  padding: 0 8px;
  font-weight: 600;
  font-size: 15px;
  letter-spacing: 0;
  text-transform: none;
}
.name :deep(.v-btn__content) {
  min-width: 0;
}
</style>
