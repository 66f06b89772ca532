<script setup lang="ts">
import type { Picture } from '@/api/client'
import { formatTimecode } from '@/time'
import { usePictureDesk } from '@/desks/workbench'
import { ref, watch } from 'vue'

const props = defineProps<{ picture: Picture }>()
const isOpen = defineModel<boolean>({ required: true })
const { change: pictures } = usePictureDesk()
const name = ref('')
const start = ref('')
const asStored = () => formatTimecode(props.picture.start_frames, props.picture.rate)

let seen = props.picture.revision
watch(
  isOpen,
  () => {
    ;[name.value, start.value] = [props.picture.name, asStored()]
    seen = props.picture.revision
  },
  { immediate: true },
)

async function keep(): Promise<void> {
  isOpen.value = false
  const change = {
    ...(name.value.trim() && name.value.trim() !== props.picture.name ? { name: name.value.trim() } : {}),
    ...(start.value.trim() !== asStored() ? { start: start.value.trim() } : {}),
  }
  if (Object.keys(change).length) await pictures.update(props.picture.id, { ...change, revision: seen })
}

async function remove(): Promise<void> {
  isOpen.value = false
  await pictures.remove(props.picture.id)
}
</script>

<template>
  <v-dialog v-model="isOpen" max-width="440">
    <v-card title="This picture">
      <v-card-text>
        <form id="edit-picture" class="fields" @submit.prevent="keep">
          <label>Name<input v-model="name" maxlength="200" /></label>
          <label>First timecode<input v-model="start" class="figure" maxlength="20" /></label>
          <p v-for="note in picture.notes" :key="note" class="quiet">{{ note }}</p>
        </form>
      </v-card-text>
      <v-card-actions>
        <v-btn variant="text" color="error" title="With its cues; undo brings it back" @click="remove"
          >Remove</v-btn
        >
        <v-spacer />
        <v-btn variant="text" @click="isOpen = false">Leave it</v-btn>
        <v-btn type="submit" form="edit-picture" color="primary">Keep</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>
