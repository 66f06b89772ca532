<script setup lang="ts">
import { useRender, type SampleFormat } from './useRender'
import { download } from '@/asking/download'
import { timeLeft } from '@/time'
import { mdiChevronDown, mdiClose, mdiDownload } from '@mdi/js'
import { computed } from 'vue'

defineProps<{ fitId: number | null; canSave: boolean; hasBars: boolean }>()
const { running, failure, save, cancel } = useRender()
const formats: { value: SampleFormat; title: string }[] = [
  { value: 'int24', title: 'WAV, 24 bit' },
  { value: 'int16', title: 'WAV, 16 bit' },
  { value: 'float32', title: 'WAV, 32 bit float' },
]
/** The beats as they are heard, for whoever plays or cuts to them. */
const BEATS = [
  ['.mid', 'Its tempo map and hits (MIDI)'],
  ['.csv', 'Its bars with timecodes (CSV)'],
  ['.wav', 'A click on its beats (WAV)'],
] as const
const words = computed(() => {
  const job = running.value
  if (!job) return ''
  return [`Rendering ${Math.round(job.progress * 100)} %`, timeLeft(job.elapsed_s, job.progress)]
    .filter(Boolean)
    .join(' · ')
})
</script>

<template>
  <div class="save">
    <template v-if="running">
      <span class="figure" role="status">{{ words }}</span>
      <v-progress-linear :model-value="running.progress * 100" color="primary" height="4" class="progress" />
      <v-btn
        :icon="mdiClose"
        size="x-small"
        aria-label="Stop rendering"
        title="Stop rendering"
        @click="cancel"
      />
    </template>
    <v-btn-group v-else density="comfortable" color="primary" variant="flat">
      <v-btn :prepend-icon="mdiDownload" :disabled="!canSave || !fitId" @click="save(fitId!, 'int24')"
        >Save WAV</v-btn
      >
      <v-menu>
        <template #activator="{ props: menu }">
          <v-btn
            v-bind="menu"
            size="small"
            :icon="mdiChevronDown"
            :disabled="!canSave || !fitId"
            aria-label="Form of the file"
          />
        </template>
        <v-list density="compact">
          <v-list-item v-for="f in formats" :key="f.value" :title="f.title" @click="save(fitId!, f.value)" />
          <template v-if="hasBars">
            <v-divider class="my-1" />
            <v-list-item
              v-for="[form, title] in BEATS"
              :key="form"
              :title="title"
              @click="download(`/api/fits/${fitId}/beats?form=${form}`)"
            />
          </template>
        </v-list>
      </v-menu>
    </v-btn-group>
    <div v-if="failure" class="failure" role="alert">{{ failure }}</div>
  </div>
</template>

<style scoped>
.save {
  position: relative;
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 150px;
  justify-content: flex-end;
}
.progress {
  width: 60px;
}
.failure {
  position: absolute;
  right: 0;
  top: 100%;
  width: 300px;
  text-align: right;
  font-size: 13px;
  color: rgb(var(--v-theme-error));
}
</style>
