<script setup lang="ts">
import type { KeyAction } from '@/composables/useKeys'

defineProps<{ keys: KeyAction[] }>()
const isOpen = defineModel<boolean>({ required: true })
const more = [
  ['S', 'Next seam: hear two bars around it'],
  ['Shift S', 'Seam before: hear two bars around it'],
  ['L', 'Type a length'],
  ['← →', 'One frame back or on; with Shift ten'],
  ['+ −', 'Zoom in and out (also Ctrl and wheel)'],
  ['A', 'Show all'],
  ['D', 'Zoom to the nearest seam'],
]
</script>

<template>
  <v-dialog v-model="isOpen" max-width="460">
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
