<script setup lang="ts">
import { listedKeys } from './useKeys'

const isOpen = defineModel<boolean>({ required: true })
</script>

<template>
  <v-dialog v-model="isOpen" max-width="560">
    <v-card title="Keys">
      <v-card-text>
        <dl>
          <template v-for="k in listedKeys" :key="k.keys">
            <dt>{{ k.keys }}</dt>
            <dd>{{ k.words }}</dd>
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
