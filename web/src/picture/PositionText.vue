<script setup lang="ts">
import { usePosition } from './usePosition'

/** Where we are, in words: the one thing that is written anew with every frame of playing. */
const { timecode } = usePosition()
</script>

<template>
  <span>{{ timecode }}</span>
</template>
