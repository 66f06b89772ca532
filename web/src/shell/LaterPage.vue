<script setup lang="ts">
import type { Step } from './steps'

defineProps<{ step: Step }>()
</script>

<template>
  <div class="later">
    <h1>{{ step.name }} is not built yet</h1>
    <p>Here you will {{ step.purpose }}.</p>
    <p class="quiet">
      For now, add tracks at the left and go to Fit: pick a track, set its length, listen, and save it as WAV.
    </p>
    <v-btn color="primary" to="/fit">Go to Fit</v-btn>
  </div>
</template>

<style scoped>
.later {
  max-width: 520px;
  margin: 14vh auto 0;
  line-height: 1.6;
}
h1 {
  font-size: 24px;
  font-weight: 600;
  margin-bottom: 8px;
}
p {
  margin-bottom: 12px;
}
</style>
