<script setup lang="ts">
import { letKeysGo } from '@/keys/useKeys'
import { ref, watch } from 'vue'

/** Asks for a name. */
const props = defineProps<{ modelValue: boolean; title: string; name: string; does: string }>()
const emit = defineEmits<{ 'update:modelValue': [open: boolean]; named: [name: string] }>()
const typed = ref('')
watch(
  () => props.modelValue,
  (open) => {
    if (open) typed.value = props.name
  },
)

function done(): void {
  if (!typed.value.trim()) return
  emit('named', typed.value.trim())
  emit('update:modelValue', false)
}
</script>

<template>
  <v-dialog
    :model-value="modelValue"
    max-width="440"
    @update:model-value="(open: boolean) => emit('update:modelValue', open)"
    @after-leave="letKeysGo"
  >
    <v-card :title="title">
      <v-card-text>
        <v-text-field v-model="typed" label="Name" maxlength="200" autofocus @keydown.enter="done" />
      </v-card-text>
      <v-card-actions>
        <v-spacer />
        <v-btn variant="text" @click="emit('update:modelValue', false)">Leave it</v-btn>
        <v-btn color="primary" :disabled="!typed.trim()" @click="done">{{ does }}</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>
