<script setup lang="ts">
import { useFaster } from '@/asking/useFaster'
import { useSession } from '@/desks/workbench'

/** Two people changed one thing: both versions in words, and whose is to stay. */
const { faster } = useFaster()
const session = useSession()

async function useMine(): Promise<void> {
  const mine = faster.value
  if (mine) await session.attempt(mine.useMine)
}
</script>

<template>
  <v-dialog :model-value="!!faster" max-width="520" @update:model-value="faster = null">
    <v-card title="Changed meanwhile">
      <v-card-text>{{ faster?.words }}</v-card-text>
      <v-card-actions>
        <v-spacer />
        <v-btn variant="text" @click="faster = null">Leave it as it is now</v-btn>
        <v-btn color="primary" @click="useMine">Use mine</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>
