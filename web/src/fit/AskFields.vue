<script setup lang="ts">
import type { Asks } from '@/api/client'
import { ASKS, askInWords, usualOf } from '@/api/asks'
import { useAsks, useSeamWishes } from './useAsks'
import { levelLine } from '@/drawing/corners'
import { chosenListening, LISTENING_WORDS, listeningFor } from '@/words/listening'
import { chosenShape, offeredShapes } from '@/drawing/shape'
import { useSession, usePictureDesk, useCueDesk } from '@/desks/workbench'
import { computed } from 'vue'
import CellField from '@/fields/CellField.vue'

/** What is asked of the fit beside its length and its hits: how much it may cost, and how it is to begin, go and end. */
const session = useSession()
const { picture, spotting } = usePictureDesk()
const cueDesk = useCueDesk()
const { cue } = cueDesk
const { asks, ask } = useAsks()

const { kept, forbidden, letGo } = useSeamWishes()

const FIELDS = (['give_pct', 'hold_bars', 'max_seams', 'early_pct', 'silence_s'] as const).map((name) => ({
  name,
  ...ASKS[name],
  title: `${askInWords(ASKS[name])}. Empty: ${ASKS[name].usual || usualOf(ASKS[name])}`,
}))
const CHOICES = ['opening', 'landing', 'order'] as const
const shown = (name: keyof Asks) => {
  const value = asks.value[name]
  return value === null || value === undefined ? '' : String(value)
}
function typed(name: keyof Asks, text: string): void {
  const value = Number(text.replace(',', '.').replace(/[^0-9.-]/g, '') || Number.NaN)
  if (text && Number.isNaN(value))
    session.message.value = `“${text}” is no number. Leave it empty for the usual.`
  else void ask({ [name]: text ? value : undefined })
}
const chosen = (event: Event) => (event.target as HTMLSelectElement).value || undefined

const shapes = computed(() => {
  if (!cue.value || !picture.value) return []
  const { slot_start_frames: startFrames, slot_length_flicks: lengthFlicks } = cue.value
  const sheet = spotting.sheet.value
  return offeredShapes(sheet?.lines ?? [], sheet?.hits ?? [], {
    startFrames,
    lengthFlicks,
    rate: picture.value.rate,
  })
})
const shape = computed(() => chosenShape(asks.value.shape ?? [], shapes.value))
/** A shape by its name; one that is drawn begins as what was asked for, or level. */
function takeShape(name?: string) {
  const asked = asks.value.shape ?? []
  const drawn = asked.length ? asked : levelLine(cueDesk.cue.value?.slot_length_flicks ?? 0)
  return ask({ shape: name === 'own' ? drawn : shapes.value.find((one) => one.name === name)?.shape })
}
const listening = computed(() => chosenListening(asks.value.listening))
const counted = (n: number) => `${n} seam${n === 1 ? '' : 's'}`
</script>

<template>
  <div class="asks">
    <label v-for="field in FIELDS" :key="field.name" :title="field.title">
      {{ field.label }}
      <CellField
        class="figure"
        :aria-label="askInWords(field)"
        :placeholder="usualOf(field)"
        :value="shown(field.name)"
        @set="(text) => typed(field.name, text)"
      />
      <span class="quiet">{{ field.after }}</span>
    </label>
    <label v-for="name in CHOICES" :key="name" :title="ASKS[name].words">
      {{ ASKS[name].label }}
      <select
        :aria-label="ASKS[name].words"
        :value="asks[name] ?? ASKS[name].default ?? ''"
        @change="(e) => ask({ [name]: chosen(e) })"
      >
        <option v-if="ASKS[name].usual" value="">{{ ASKS[name].usual }}</option>
        <option v-for="(words, word) in ASKS[name].choices" :key="word" :value="word">{{ words }}</option>
      </select>
      <template v-if="name === 'landing' && asks.landing === 'fade'">
        of
        <CellField
          class="figure"
          :aria-label="askInWords(ASKS.fade_s)"
          :placeholder="usualOf(ASKS.fade_s)"
          :value="shown('fade_s')"
          @set="(text) => typed('fade_s', text)"
        />
        <span class="quiet">{{ ASKS.fade_s.after }}</span>
      </template>
    </label>
    <label title="How full the music is to be, and when">
      Fullness
      <select aria-label="How full the music is" :value="shape" @change="(e) => takeShape(chosen(e))">
        <option v-for="one in shapes" :key="one.name" :value="one.name">{{ one.words }}</option>
        <option value="own">drawn by hand</option>
      </select>
    </label>
    <label title="What counts most where two passages meet">
      Listens for
      <select
        aria-label="What counts at a seam"
        :value="listening"
        @change="(e) => ask({ listening: listeningFor(chosen(e) ?? 'all') })"
      >
        <option v-for="(words, name) in LISTENING_WORDS" :key="name" :value="name">{{ words }}</option>
        <option v-if="listening === 'own'" value="own" disabled>as it was asked for</option>
      </select>
    </label>
    <span v-if="kept.length">
      {{ counted(kept.length) }} kept
      <button class="plain" @click="letGo(kept)">let go</button>
    </span>
    <span v-if="forbidden.length">
      {{ counted(forbidden.length) }} left out
      <button class="plain" @click="letGo(forbidden)">allow again</button>
    </span>
  </div>
</template>

<style scoped>
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  margin-bottom: 8px;
}
.asks label {
  display: flex;
  align-items: center;
  gap: 6px;
}
.asks :deep(input) {
  width: 62px;
}
.asks :deep(input),
.asks select {
  padding: 2px 7px;
  border-radius: 5px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.25);
  background: rgb(var(--v-theme-surface-bright));
  color: inherit;
  font-size: 14px;
}
.plain {
  padding: 0 6px;
  border-radius: 4px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  background: none;
  color: inherit;
}
</style>
