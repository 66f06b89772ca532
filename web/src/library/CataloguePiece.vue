<script setup lang="ts">
import type { Piece } from '@/api/client'
import type { Coming } from './useCatalogue'
import { formatClock, overOrShort, timeLeft } from '@/time'
import { mdiCheck, mdiClose, mdiPlay, mdiStop } from '@mdi/js'
import { computed } from 'vue'

const props = defineProps<{
  piece: Piece
  /** What the music is wanted for. */
  use: string
  slotS: number
  isOwned: boolean
  isHeard: boolean
  coming: Coming | undefined
}>()
defineEmits<{ hear: []; license: []; stop: [] }>()

const terms = computed(() => {
  const t = props.piece.terms
  const time = t.years === null ? 'no limit of time' : `${t.years} years`
  return `${t.name}: ${t.uses.join(', ')} · ${t.territory}, ${time} · credit “${t.credit}”`
})

/** Why it is of no use here, in the words of its terms; empty if it is. */
const obstacle = computed(() => {
  const t = props.piece.terms
  if (!t.may_be_edited) return 'May not be cut or rearranged, so it cannot be fitted.'
  return t.uses.includes(props.use) ? '' : `Not for ${props.use}.`
})
const expected = computed(() => {
  const o = props.piece.outlook
  if (!o) return ''
  const hits = o.hits_within_reach ? ` Hits whole beats apart: ${o.hits_within_reach}.` : ''
  return `Suits this slot about ${o.suits} of 100, by its length and tempo.${hits} It is listened to once it is here.`
})
const working = computed(() => {
  const c = props.coming
  if (!c) return ''
  if (!c.progress) return 'Asking for the licence …'
  const left = timeLeft((performance.now() - c.startedAtMs) / 1000, c.progress)
  return [`Fetching, ${Math.round(c.progress * 100)} %`, left].filter(Boolean).join(' · ')
})
</script>

<template>
  <li class="piece" :aria-label="piece.title">
    <v-btn
      :icon="isHeard ? mdiStop : mdiPlay"
      size="small"
      variant="tonal"
      :color="isHeard ? 'primary' : undefined"
      :aria-label="`${isHeard ? 'Stop' : 'Hear'} ${piece.title}`"
      title="Hear twenty seconds of it"
      @click="$emit('hear')"
    />
    <div class="what">
      <div>
        <strong>{{ piece.title }}</strong> <span class="quiet">{{ piece.artist }}</span>
      </div>
      <div class="small quiet">{{ piece.tags.join(', ') }}</div>
      <div class="small terms">{{ terms }}</div>
    </div>
    <div class="music small">
      <div class="figure">{{ piece.tempo_bpm.toFixed(0) }} bpm · {{ piece.meter }}</div>
      <div class="figure">
        {{ formatClock(piece.length_s) }} <span class="over">{{ overOrShort(piece.length_s, slotS) }}</span>
      </div>
      <div v-if="piece.outlook" class="outlook" :title="expected">{{ piece.outlook.words }}</div>
    </div>
    <div class="do">
      <template v-if="coming && !coming.failure">
        <v-progress-linear
          :model-value="coming.progress * 100"
          :indeterminate="!coming.progress"
          color="primary"
          height="5"
          rounded
        />
        <span class="split small quiet" role="status"
          >{{ working
          }}<v-btn
            :icon="mdiClose"
            size="x-small"
            variant="text"
            :aria-label="`Stop licensing ${piece.title}`"
            @click="$emit('stop')"
        /></span>
      </template>
      <span v-else-if="isOwned" class="small owned" role="status"
        ><v-icon :icon="mdiCheck" size="16" /> In your library</span
      >
      <span v-else-if="obstacle" class="small failure">{{ obstacle }}</span>
      <template v-else>
        <v-btn height="34" color="primary" @click="$emit('license')">{{
          coming ? 'Try again' : 'License and add'
        }}</v-btn>
        <span v-if="coming" class="small failure" role="alert">{{ coming.failure }}</span>
      </template>
    </div>
  </li>
</template>

<style scoped>
.piece {
  display: grid;
  grid-template-columns: 40px 1fr 150px 190px;
  align-items: center;
  gap: 14px;
  padding: 12px 20px;
  list-style: none;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.08);
}
.terms {
  margin-top: 3px;
}
.over {
  color: rgb(var(--v-theme-primary));
}
.outlook {
  color: rgb(var(--v-theme-secondary));
}
.do {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.owned {
  color: rgb(var(--v-theme-secondary));
}
</style>
