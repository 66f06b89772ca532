<script setup lang="ts">
import type { Change } from '@/api/client'
import { changesQuery } from '@/api/queries'
import { useAsks } from './useAsks'
import { asksOf, changeInWords, othersFor } from '@/words/changes'
import type { LandedHit } from '@/drawing/hits'
import { usePictureDesk, useCueDesk, useFitDesk } from '@/desks/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

/** Where a must is missed, or a seam will be heard: what would do instead, each to be had by pressing it. */
const { spotting } = usePictureDesk()
const cueDesk = useCueDesk()
const { cue, track } = cueDesk
const { fit } = useFitDesk()
const props = defineProps<{ hits: LandedHit[] }>()
const { asks, ask } = useAsks()
const plan = computed(() => fit.value?.plan ?? null)
const missed = computed(() => props.hits.filter((hit) => hit.weight === 'must' && !hit.isKept))
const changes = useQuery(
  computed(() => ({
    ...changesQuery(cue.value, track.value?.id ?? null, track.value?.chart_id ?? ''),
    enabled: missed.value.length > 0 && !fit.value?.is_outdated,
  })),
)
const others = computed(() => (plan.value ? othersFor(plan.value, asks.value) : []))

async function have(change: Change): Promise<void> {
  const asked = asksOf(change)
  if (asked) return ask(asked)
  for (const hit of missed.value)
    if (hit.id)
      await spotting.edit({ edit: 'change_hit', id: hit.id, tolerance_frames: Math.round(change.value ?? 0) })
  await cueDesk.fitAgain()
}
</script>

<template>
  <p v-if="missed.length && changes.data.value" class="would-do">
    <template v-if="changes.data.value.length">
      {{ missed.length === 1 ? 'The must that is missed' : 'The musts that are missed' }} would be met with
      <button v-for="change in changes.data.value" :key="change.kind" @click="have(change)">
        {{ changeInWords(change) }}
      </button>
    </template>
    <template v-else>No one change would have every must met. Move a hit, or make two cues.</template>
  </p>
  <p v-if="others.length" class="would-do">
    Its own opening and ending cost a plain seam here. Instead:
    <button v-for="other in others" :key="other.words" @click="ask(other.asks)">{{ other.words }}</button>
  </p>
</template>

<style scoped>
.would-do {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  margin: 0 0 6px;
  font-size: 14px;
}
.would-do button {
  padding: 0 8px;
  border-radius: 4px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  background: none;
  color: inherit;
}
.would-do button:hover {
  border-color: rgb(var(--v-theme-primary));
}
</style>
