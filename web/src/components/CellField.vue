<script setup lang="ts">
import { computed, ref } from 'vue'

/**
 * A value in a table. What is typed stays while answers to earlier changes come in; it is handed on when the field is left,
 * and Escape gives the old value back.
 */
const props = defineProps<{ value: string | number; revision?: number }>()
/** `seen`: the revision that was looked at when somebody began to type. */
const emit = defineEmits<{ set: [text: string, seen: number | undefined] }>()
let seen: number | undefined
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? String(props.value))

function leave(event: FocusEvent): void {
  const text = (event.target as HTMLInputElement).value.trim()
  typed.value = null
  if (text !== String(props.value)) emit('set', text, seen)
}
function giveUp(event: KeyboardEvent): void {
  const field = event.target as HTMLInputElement
  field.value = String(props.value)
  typed.value = null
  field.blur()
}
</script>

<template>
  <input
    :value="shown"
    autocomplete="off"
    spellcheck="false"
    @focus="seen = revision"
    @input="typed = ($event.target as HTMLInputElement).value"
    @blur="leave"
    @keydown.esc.prevent.stop="giveUp"
  />
</template>
