<script setup lang="ts">
import { choices, isNarrowed, noSearch, type Search } from './library'
import type { Track } from '@/api/client'
import { mdiTuneVariant } from '@mdi/js'
import { computed, ref } from 'vue'

/** Search by words, and what else narrows the list. */
const props = defineProps<{ tracks: Track[]; count: number }>()
const search = defineModel<Search>({ required: true })
const isOpen = ref(false)
const words = ref<HTMLInputElement | null>(null)
const offered = computed(() => choices(props.tracks))
const narrowed = computed(() => isNarrowed(search.value))

type Figure = 'tempoFrom' | 'tempoTo' | 'lengthFromS' | 'lengthToS'
/** Numbers, or m:ss; nothing where there is none. */
function figure(event: Event): number | null {
  const text = (event.target as HTMLInputElement).value.trim().replace(',', '.')
  const [, minutes, seconds] = /^(?:(\d+):)?(\d+(?:\.\d+)?)$/.exec(text) ?? []
  return seconds === undefined ? null : 60 * Number(minutes ?? 0) + Number(seconds)
}
function set(name: Figure, event: Event): void {
  search.value = { ...search.value, [name]: figure(event) }
}
/** Fields that were typed in are made anew when all is shown. */
const times = ref(0)
function showAll(): void {
  search.value = { ...noSearch(), order: search.value.order }
  times.value++
}
defineExpose({ focus: () => words.value?.focus() })
</script>

<template>
  <div class="filter" role="search" aria-label="Search the tracks">
    <div class="top">
      <input
        ref="words"
        v-model="search.words"
        type="search"
        placeholder="Search"
        aria-label="Words"
        title="Title, artist, tag, key or file name (/)"
        @keydown.esc="(($event.target as HTMLInputElement).blur(), showAll())"
      />
      <v-btn
        :icon="mdiTuneVariant"
        size="x-small"
        :color="narrowed ? 'primary' : undefined"
        :aria-expanded="isOpen"
        aria-label="Filter and sort"
        title="Filter and sort"
        @click="isOpen = !isOpen"
      />
    </div>
    <div v-if="isOpen" :key="times" class="more">
      <label>Tempo</label>
      <span class="pair"
        ><input aria-label="Tempo from" placeholder="from" @input="set('tempoFrom', $event)" /><input
          aria-label="Tempo to"
          placeholder="to"
          @input="set('tempoTo', $event)"
      /></span>
      <label>Length</label>
      <span class="pair"
        ><input aria-label="Length from" placeholder="from" @input="set('lengthFromS', $event)" /><input
          aria-label="Length to"
          placeholder="to"
          @input="set('lengthToS', $event)"
      /></span>
      <label>Metre</label>
      <span class="pair">
        <select v-model="search.meter" aria-label="With metre">
          <option value="">any</option>
          <option v-for="m in offered.meters" :key="m">{{ m }}</option>
        </select>
        <select v-model="search.voice" aria-label="Voice">
          <option value="">any voice</option>
          <option value="none">no voice</option>
          <option value="some">with voice</option>
        </select></span
      >
      <label>Key, tag</label>
      <span class="pair"
        ><select v-model="search.key" aria-label="Key">
          <option value="">any key</option>
          <option v-for="k in offered.keys" :key="k">{{ k }}</option></select
        ><select v-model="search.tag" aria-label="Tag">
          <option value="">any tag</option>
          <option v-for="t in offered.tags" :key="t">{{ t }}</option>
        </select></span
      >
      <label>Order</label>
      <select v-model="search.order" aria-label="Order">
        <option value="added">latest first</option>
        <option value="suits">what suits the slot</option>
        <option value="slot">nearest to the slot’s length</option>
        <option value="title">by title</option>
        <option value="tempo">by tempo</option>
        <option value="length">by length</option>
      </select>
    </div>
    <div v-if="narrowed" class="count small">
      <span role="status">{{ count }} of {{ tracks.length }}</span>
      <button @click="showAll">Show all</button>
    </div>
  </div>
</template>

<style scoped>
.filter {
  padding: 0 14px 8px;
}
.top {
  display: flex;
  gap: 8px;
  align-items: center;
}
.top input {
  flex: 1;
}
input,
select {
  min-width: 0;
  width: 100%;
  padding: 3px 8px;
  font-size: 14px;
  color: inherit;
  border-radius: 5px;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
}
.more {
  display: grid;
  grid-template-columns: 62px 1fr;
  align-items: center;
  gap: 5px 8px;
  padding-top: 8px;
  font-size: 13px;
}
.pair {
  display: flex;
  gap: 6px;
}
.count {
  display: flex;
  justify-content: space-between;
  padding-top: 6px;
}
.count button {
  background: none;
  border: none;
  color: rgb(var(--v-theme-primary));
}
</style>
