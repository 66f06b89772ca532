<script setup lang="ts">
import type { CueAsks } from '@/api/client'
import { useAsks } from './useAsks'
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

const FIELDS: { name: keyof CueAsks; label: string; unit: string; usual: string; title: string }[] = [
  {
    name: 'give_pct',
    label: 'Give',
    unit: '%',
    usual: 'any',
    title: 'Most change of speed, 0 to 20 %',
  },
  {
    name: 'hold_bars',
    label: 'Hold',
    unit: 'bars',
    usual: 'any',
    title: 'Fewest bars between two seams',
  },
  { name: 'max_seams', label: 'Seams', unit: 'at most', usual: 'any', title: 'Most seams' },
  {
    name: 'early_pct',
    label: 'Ring-out',
    unit: '% may go',
    usual: '33',
    title: 'How much of the ring-out may be faded away before the speed is changed',
  },
  {
    name: 'silence_s',
    label: 'Silence',
    unit: 's may follow',
    usual: '1',
    title: 'How much silence may follow before the speed is changed',
  },
]
const shown = (name: keyof CueAsks) => {
  const value = asks.value[name]
  return value === null || value === undefined ? '' : String(value)
}
function typed(name: keyof CueAsks, text: string): void {
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
    <label v-for="field in FIELDS" :key="field.name" :title="`${field.title}. Empty: ${field.usual}`">
      {{ field.label }}
      <CellField
        class="figure"
        :aria-label="field.title"
        :placeholder="field.usual"
        :value="shown(field.name)"
        @set="(text) => typed(field.name, text)"
      />
      <span class="quiet">{{ field.unit }}</span>
    </label>
    <label title="Where the music begins">
      Opens
      <select
        aria-label="Where the music begins"
        :value="asks.opening ?? ''"
        @change="(e) => ask({ opening: chosen(e) as CueAsks['opening'] })"
      >
        <option value="">as it does itself, unless hits need more</option>
        <option value="own">as it does itself</option>
        <option value="section">at a section</option>
        <option value="bar">on any downbeat</option>
      </select>
    </label>
    <label title="How the music ends">
      Lands
      <select
        aria-label="How the music ends"
        :value="asks.landing ?? 'ring_out'"
        @change="(e) => ask({ landing: chosen(e) as CueAsks['landing'] })"
      >
        <option value="ring_out">on its own ending</option>
        <option value="fade">in a fade</option>
      </select>
      <template v-if="asks.landing === 'fade'">
        of
        <CellField
          class="figure"
          aria-label="Length of the fade"
          placeholder="4"
          :value="shown('fade_s')"
          @set="(text) => typed('fade_s', text)"
        />
        <span class="quiet">s</span>
      </template>
    </label>
    <label title="Whether the music may go back to what was heard">
      Order
      <select
        aria-label="Order of the passages"
        :value="asks.order ?? 'free'"
        @change="(e) => ask({ order: chosen(e) as CueAsks['order'] })"
      >
        <option value="free">free</option>
        <option value="forward">only forward</option>
      </select>
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
    <span v-if="asks.kept_seams?.length">
      {{ counted(asks.kept_seams.length) }} kept
      <button class="plain" @click="ask({ kept_seams: undefined })">let go</button>
    </span>
    <span v-if="asks.forbidden_seams?.length">
      {{ counted(asks.forbidden_seams.length) }} left out
      <button class="plain" @click="ask({ forbidden_seams: undefined })">allow again</button>
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
