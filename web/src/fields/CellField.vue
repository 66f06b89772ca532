<script setup lang="ts">
import { computed, ref } from 'vue'

/**
 * A value in a table or a form, of one line or several. What is typed stays while answers to earlier changes come in; it is
 * handed on when the field is left or Enter is pressed, and Escape gives the old value back.
 */
const props = defineProps<{ value: string | number; revision?: number; rows?: number }>()
/** `seen`: the revision that was looked at when somebody began to type. */
const emit = defineEmits<{ set: [text: string, seen: number | undefined] }>()
let seen: number | undefined
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? String(props.value))
type Field = HTMLInputElement | HTMLTextAreaElement

function leave(event: FocusEvent): void {
  const text = (event.target as Field).value.trim()
  typed.value = null
  if (text !== String(props.value)) emit('set', text, seen)
}
function giveUp(event: KeyboardEvent): void {
  const field = event.target as Field
  field.value = String(props.value)
  typed.value = null
  field.blur()
}
function done(event: KeyboardEvent): void {
  if (!props.rows) (event.target as Field).blur()
}
</script>

<template>
  <component
    :is="rows ? 'textarea' : 'input'"
    :rows="rows"
    :value="shown"
    autocomplete="off"
    spellcheck="false"
    @focus="seen = revision"
    @input="typed = ($event.target as Field).value"
    @blur="leave"
    @keydown.enter="done"
    @keydown.esc.prevent.stop="giveUp"
  />
</template>
