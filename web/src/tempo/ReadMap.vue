<script setup lang="ts">
/** Take a MIDI file with a tempo map in. */
withDefaults(defineProps<{ words: string; about?: string; label?: string }>(), {
  about: "Its tempi and metres, from the picture's first frame on",
  label: 'MIDI file with a tempo map',
})
const emit = defineEmits<{ read: [file: File] }>()
function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) emit('read', file)
}
</script>

<template>
  <label class="read" :title="about">
    {{ words }}
    <input type="file" accept=".mid,.midi" :aria-label="label" @change="chosen" />
  </label>
</template>

<style scoped>
.read {
  cursor: pointer;
  text-decoration: underline dotted;
}
.read input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.read:focus-within {
  outline: 2px solid rgb(var(--v-theme-primary));
}
</style>
