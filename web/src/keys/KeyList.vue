<script setup lang="ts">
import type { KeyAction } from './useKeys'
import { computed } from 'vue'
import { useRoute } from 'vue-router'

defineProps<{ keys: KeyAction[] }>()
const isOpen = defineModel<boolean>({ required: true })
const FIT = [
  ['S', 'Next seam: hear two bars around it'],
  ['Shift S', 'Seam before: hear two bars around it'],
  ['↑ ↓', 'To the hit before or after'],
  ['W', 'Report, or other ways to fit'],
  ['B', 'Which bar lands on which hit'],
  ['T', 'The tempi that meet the hits, and the tempo map'],
  ['E', 'See and hear the fit before; again: the one that is'],
  ['L', 'Type a length'],
  ['← →', 'One frame back or on; with Shift ten'],
  ['D', 'Zoom to the nearest seam'],
]
const GATHER = [
  ['C', 'Click on the beats'],
  ['B', 'Beat one at the playhead'],
  ['H, Shift H', 'Half the tempo, twice the tempo'],
  ['T', 'Tap the tempo while it plays'],
  ['P, M', 'Type a tempo, choose a metre'],
  [', .', 'Shift the beats by 5 ms'],
  ['← →, ↑ ↓', 'Go by bars, by beats'],
  ['[ ]', 'Trim head or tail at the playhead'],
  ['O, E, R', 'Opening, last hit, end of the ring-out here'],
  ['N', 'Split the section on the nearest bar'],
  ['K, X, G', 'Keep, skip or guard the chosen bars'],
  ['D', 'Zoom to the playhead'],
]
const SPOT = [
  ['J, K, L', 'Run back, stop, run on; pressed again faster'],
  ['← →', 'One frame back or on; with Shift ten'],
  ['↑ ↓', 'To the hit before or after'],
  ['G', 'Go to a time'],
  ['M', 'Mark a hit, while it plays or parked'],
  ['Enter', 'Name the chosen hit'],
  [', .', 'Chosen hits a frame earlier or later; with Shift ten'],
  ['N', 'Snap the chosen hits to the nearest shot change'],
  ['Delete', 'Take away what is chosen'],
  ['I, O', 'Mark in, mark out; with Shift go there'],
  ['P', 'Drop the marks of in and out'],
  ['Y', 'Play from in to out again and again'],
  ['C', 'A cue from in to out, or of this shot; with Shift of all'],
  ['D', 'A dialogue line from in to out'],
  ['X', 'Cut the shot here; with Shift join it to the one before'],
  ['T', 'The tempi that meet the hits, and the tempo map'],
  ['U', 'Timecode, frames, feet and frames, seconds'],
  ['W', 'Timecode window in the picture'],
]
const LISTS = [
  ['/', 'Search the tracks'],
  ['Q', 'Find licensed music in the catalogue'],
]
const ZOOM = [
  ['+ −', 'Zoom in and out (also Ctrl and wheel)'],
  ['A', 'Show all'],
]
const route = useRoute()
const BY_PATH: Record<string, string[][]> = { '/gather': [...GATHER, ...LISTS], '/spot': SPOT }
const more = computed(() => [...(BY_PATH[route.path] ?? [...FIT, ...LISTS]), ...ZOOM])
</script>

<template>
  <v-dialog v-model="isOpen" max-width="560">
    <v-card title="Keys">
      <v-card-text>
        <dl>
          <template v-for="k in keys" :key="k.keys">
            <dt>{{ k.keys }}</dt>
            <dd>{{ k.words }}</dd>
          </template>
          <template v-for="[k, words] in more" :key="k">
            <dt>{{ k }}</dt>
            <dd>{{ words }}</dd>
          </template>
        </dl>
      </v-card-text>
      <v-card-actions><v-spacer /><v-btn @click="isOpen = false">Close</v-btn></v-card-actions>
    </v-card>
  </v-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 120px 1fr;
  gap: 8px 16px;
  font-size: 15px;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
</style>
