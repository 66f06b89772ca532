<script setup lang="ts">
import { timeLeft } from '@/time'
import { useSession, usePictureDesk } from '@/desks/workbench'
import { mdiClose } from '@mdi/js'

/** Files on their way in, and those that were refused with the reason, until they are put away. */
const session = useSession()
const pictureDesk = usePictureDesk()
const { refusals } = session
const { uploads } = pictureDesk.uploads

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
  <ul v-if="uploads.length || refusals?.length" class="coming">
    <li v-for="u in uploads" :key="u.id" class="upload" :class="u.state">
      <div class="split">
        <span class="one-line">{{ u.name }}</span>
        <v-btn
          :icon="mdiClose"
          size="x-small"
          variant="text"
          :aria-label="u.state === 'sending' ? `Stop adding ${u.name}` : `Put away ${u.name}`"
          @click="pictureDesk.uploads.remove(u.id)"
        />
      </div>
      <template v-if="u.state === 'sending'">
        <v-progress-linear :model-value="u.progress * 100" color="primary" height="5" rounded class="my-1" />
        <span class="small quiet">{{ sending(u.progress, u.startedAtMs) }}</span>
      </template>
      <span v-else class="small failure" role="alert">{{ u.reason }}</span>
    </li>
    <li v-for="r in refusals" :key="`r${r.id}`" class="upload refused">
      <div class="split">
        <span class="one-line">{{ r.name }}</span>
        <v-btn
          :icon="mdiClose"
          size="x-small"
          variant="text"
          :aria-label="`Put away ${r.name}`"
          @click="session.putAway(r.id)"
        />
      </div>
      <span class="small failure" role="alert">{{ r.reason }}</span>
    </li>
  </ul>
</template>

<style scoped>
.coming {
  flex: none;
  max-height: 40%;
  margin: 0;
  padding: 0;
  overflow-y: auto;
}
.upload {
  list-style: none;
  padding: 8px 14px;
}
</style>
