<script setup lang="ts">
import { askAgain } from '@/api/again'
import { answer, api, sendFile } from '@/api/client'
import { useCueDesk, useSession } from '@/desks/workbench'
import ReadMap from '@/tempo/ReadMap.vue'
import { computed } from 'vue'
import { useAsks } from './useAsks'

/** Whether the track of the cue follows a tempo map: that of the picture, or one that comes back from elsewhere as MIDI. */
defineProps<{ hasMap: boolean }>()
const session = useSession()
const { cue } = useCueDesk()
const { asks, ask } = useAsks()
const bars = computed(() => asks.value.held_bars?.length ?? 0)

async function follow(work: (cueId: number) => Promise<unknown>): Promise<void> {
  await session.attempt(() => work(cue.value!.id))
  await askAgain('production')
}
const picture = () =>
  follow((cue_id) => answer(api.POST('/api/cues/{cue_id}/follow', { params: { path: { cue_id } } })))
const read = (file: File) => follow((cueId) => sendFile(`/api/cues/${cueId}/tempo-map`, file))
</script>

<template>
  <div class="follow" role="group" aria-label="The map that the track follows">
    <span v-if="bars" class="figure"
      >{{ bars === 1 ? 'One bar' : `${bars} bars` }} of the track follow a map</span
    >
    <span v-else class="quiet">The track can be bent bar by bar to a map</span>
    <button
      v-if="hasMap"
      class="press"
      title="Each bar of the track lands on one of the picture's tempo map, as it is now"
      @click="picture"
    >
      {{ bars ? 'follow the picture again' : 'follow the picture' }}
    </button>
    <ReadMap
      words="Follow one from MIDI"
      about="Its bars, from the start of the slot on: what was saved of a fit comes back as it is by then"
      label="MIDI file that the track is to follow"
      @read="read"
    />
    <button v-if="bars" class="press" @click="ask({ held_bars: undefined })">let go of it</button>
  </div>
</template>

<style scoped>
.follow {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
  padding: 8px 12px 0;
  font-size: 13px;
}
.press + .press {
  margin-left: 0;
}
</style>
