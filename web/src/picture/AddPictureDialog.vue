<script setup lang="ts">
import { usePictureDesk } from '@/desks/workbench'
import { ref, watch } from 'vue'

/** A picture without a film: a length as typed, or as long as the shots of an edit list. */
const isOpen = defineModel<boolean>({ required: true })
const pictureDesk = usePictureDesk()
const RATES = ['23.976', '24', '25', '29.97', '29.97df', '30', '47.952', '48', '50', '59.94', '59.94df', '60']
const name = ref('')
const rate = ref('25')
const length = ref('')
const start = ref('')
const refusal = ref('')
const picker = ref<HTMLInputElement | null>(null)

watch(isOpen, (now) => {
  if (!now) return
  ;[name.value, length.value, start.value, refusal.value] = ['', '', '', '']
})

async function attempt(add: () => Promise<{ id: number }>): Promise<void> {
  refusal.value = ''
  try {
    pictureDesk.pictureId.value = (await add()).id
    isOpen.value = false
  } catch (error) {
    refusal.value = (error as Error).message
  }
}

const addLength = () =>
  attempt(() =>
    pictureDesk.change.addBlank({
      name: name.value.trim() || 'Untitled picture',
      rate: rate.value,
      length: length.value.trim() || '?',
      start: start.value.trim() || null,
    }),
  )

function addList(event: Event): void {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void attempt(() => pictureDesk.change.addFromList(file, rate.value))
}
</script>

<template>
  <v-dialog v-model="isOpen" max-width="460">
    <v-card title="A picture without a film">
      <v-card-text>
        <form id="add-picture" class="fields" @submit.prevent="addLength">
          <label
            >Frames a second<v-select
              v-model="rate"
              :items="RATES"
              density="compact"
              hide-details
              variant="outlined"
          /></label>
          <label>Name<input v-model="name" maxlength="200" placeholder="Exhibit loop" /></label>
          <label>Length<input v-model="length" placeholder="1:12, 72s, 1800f or 00:01:12:00" /></label>
          <label>First timecode<input v-model="start" placeholder="00:00:00:00" /></label>
          <p v-if="refusal" class="refusal" role="alert">{{ refusal }}</p>
        </form>
      </v-card-text>
      <v-card-actions>
        <v-btn variant="text" title="CMX 3600 or OpenTimelineIO, at the rate above" @click="picker?.click()">
          Read an edit list …
        </v-btn>
        <v-spacer />
        <v-btn variant="text" @click="isOpen = false">Leave it</v-btn>
        <v-btn type="submit" form="add-picture" color="primary">Add the length</v-btn>
      </v-card-actions>
      <input ref="picker" type="file" accept=".edl,.otio,.txt" hidden data-adds="list" @change="addList" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.refusal {
  color: rgb(var(--v-theme-error));
}
</style>
