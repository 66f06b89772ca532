<script setup lang="ts">
import { useKeys } from '@/keys/useKeys'
import { usePictureDesk, useTransport } from '@/desks/workbench'
import { framesToSeconds } from '@/time'
import { nextTick, ref } from 'vue'
import PositionText from './PositionText.vue'
import { usePosition } from './usePosition'

/** Where we are; on Spot a time can be typed, to go there. */
const props = defineProps<{ isWide: boolean }>()
const { picture, spotting } = usePictureDesk()
const { player } = useTransport()
const position = usePosition()
const goTo = ref<HTMLInputElement | null>(null)
const isGoingTo = ref(false)
/** What is typed stays typed, however often the page is drawn meanwhile. */
const typed = ref('')

async function begin(): Promise<void> {
  if (!props.isWide) return
  typed.value = position.timecode.value
  isGoingTo.value = true
  await nextTick()
  goTo.value?.select()
}

async function end(): Promise<void> {
  const text = typed.value.trim()
  isGoingTo.value = false
  if (!text || text === position.timecode.value || !picture.value) return
  const to = await spotting.position(text, position.frame.value)
  if (to !== undefined) player.seek(framesToSeconds(to, picture.value.rate))
}

useKeys(() => (props.isWide ? [{ key: 'g', keys: 'G', words: 'Go to a time', run: () => void begin() }] : []))
</script>

<template>
  <input
    v-if="isGoingTo"
    ref="goTo"
    v-model="typed"
    class="timecode figure"
    aria-label="Go to"
    title="1:12, 112, 72s, 240f, +10f, -1:00 or a timecode"
    @keydown.enter.prevent="end"
    @keydown.esc.prevent="isGoingTo = false"
    @blur="isGoingTo = false"
  />
  <div
    v-else
    class="timecode figure"
    :class="{ large: isWide }"
    aria-label="Position"
    :title="isWide ? 'Go to a time (G)' : undefined"
    @click="begin"
  >
    <PositionText />
  </div>
</template>

<style scoped>
.timecode {
  flex: 1;
  font-size: 26px;
  line-height: 1.2;
  letter-spacing: 0.01em;
  font-weight: 300;
}
input.timecode {
  width: 100%;
  color: inherit;
  background: rgb(var(--v-theme-surface-bright));
  border: 0;
  border-bottom: 2px solid rgb(var(--v-theme-primary));
  outline: none;
}
.large,
input.timecode {
  flex: none;
  width: 202px;
  font-size: 32px;
}
.large {
  cursor: text;
}
</style>
