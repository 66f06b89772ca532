<script setup lang="ts">
import type { Piece } from '@/api/client'
import { useCatalogue, usePreview } from './useCatalogue'
import { useSession, useCueDesk, useTransport } from '@/desks/workbench'
import { computed, nextTick, onScopeDispose, ref, watch } from 'vue'
import CataloguePiece from './CataloguePiece.vue'

const isOpen = defineModel<boolean>({ required: true })
const session = useSession()
const cueDesk = useCueDesk()
const transport = useTransport()
const catalogue = useCatalogue(
  () => session.productionId.value,
  () => cueDesk.cue.value,
  () => isOpen.value,
)
const { pieces, failure, isAsking, coming } = catalogue
const preview = usePreview()
const typed = ref('')
const field = ref<HTMLInputElement | null>(null)
const TYPING_PAUSE_MS = 250
const SLOW_AFTER_S = 2
let typing = 0

watch(typed, (words) => {
  clearTimeout(typing)
  typing = window.setTimeout(() => (catalogue.words.value = words.trim()), TYPING_PAUSE_MS)
})

/** How long the catalogue has been asked, while it is. */
const waitedS = ref(0)
let clock = 0
watch(isAsking, (asking) => {
  clearInterval(clock)
  waitedS.value = 0
  if (asking) clock = window.setInterval(() => waitedS.value++, 1000)
})
onScopeDispose(() => {
  clearTimeout(typing)
  clearInterval(clock)
})

const uses = computed(() => [...new Set((pieces.value ?? []).flatMap((p) => p.terms.uses))])
const use = ref(localStorage.getItem('use') ?? '')
watch(uses, (offered) => {
  if (offered.length && !offered.includes(use.value)) use.value = offered[0]!
})
watch(use, (wanted) => localStorage.setItem('use', wanted))

watch(
  isOpen,
  async (open) => {
    if (!open) return preview.stop()
    transport.player.stop()
    await nextTick()
    field.value?.focus()
  },
  { immediate: true },
)

/** By length and tempo alone; pieces that may not be cut, or not be used for this, come last. */
const order = ref(localStorage.getItem('catalogueOrder') ?? 'suits')
watch(order, (wanted) => localStorage.setItem('catalogueOrder', wanted))
const suits = ({ terms, outlook }: Piece): number =>
  terms.may_be_edited && terms.uses.includes(use.value) ? (outlook?.suits ?? 0) : -1
const listed = computed(() =>
  order.value === 'suits'
    ? [...(pieces.value ?? [])].sort((a, b) => suits(b) - suits(a))
    : (pieces.value ?? []),
)

const owned = computed(
  () => new Set((session.tracks.value ?? []).map((t) => t.licence?.piece_id).filter(Boolean)),
)

function license(piece: Piece): void {
  void catalogue.license(piece, use.value)
}
</script>

<template>
  <v-dialog v-model="isOpen" width="940" max-width="94vw" aria-labelledby="catalogue-title">
    <v-card class="card" height="min(640px, 84vh)">
      <header class="head">
        <h2 id="catalogue-title">Catalogue</h2>
        <input
          ref="field"
          v-model="typed"
          type="search"
          class="words"
          aria-label="Search the catalogue"
          placeholder="title, artist, mood, instrument, tempo"
        />
        <label v-if="uses.length" class="use"
          >Music for
          <select v-model="use" aria-label="What the music is for">
            <option v-for="u in uses" :key="u">{{ u }}</option>
          </select></label
        >
        <label v-if="cueDesk.cue.value" class="use"
          >Order
          <select v-model="order" aria-label="Order of the pieces">
            <option value="suits">what suits the slot</option>
            <option value="offered">as offered</option>
          </select></label
        >
        <v-btn variant="text" @click="isOpen = false">Close</v-btn>
      </header>
      <div v-if="preview.failure.value" class="state failure" role="alert">{{ preview.failure.value }}</div>
      <div v-if="isAsking && !pieces" class="state" role="status">
        <v-progress-circular indeterminate size="22" width="3" color="secondary" />
        <span v-if="waitedS < SLOW_AFTER_S">Asking the catalogue …</span>
        <template v-else>
          <span>The catalogue takes its time: {{ waitedS }} s so far.</span>
          <v-btn size="small" @click="catalogue.stopAsking">Stop</v-btn>
        </template>
      </div>
      <div v-else-if="failure" class="state" role="alert">
        <span class="failure">{{ failure }}</span>
        <v-btn size="small" @click="catalogue.ask">Try again</v-btn>
      </div>
      <div v-else-if="!pieces" class="state">
        <span>The catalogue was not asked to the end.</span>
        <v-btn size="small" @click="catalogue.ask">Ask again</v-btn>
      </div>
      <p v-else-if="!pieces.length" class="state quiet">
        Nothing in the catalogue is like “{{ catalogue.words.value }}”. Try fewer or other words.
      </p>
      <ul v-else class="pieces" aria-label="Pieces in the catalogue">
        <CataloguePiece
          v-for="piece in listed"
          :key="piece.id"
          :piece="piece"
          :use="use"
          :slot-s="cueDesk.slotS.value"
          :is-owned="owned.has(piece.id)"
          :is-heard="preview.playing.value === piece.id"
          :coming="coming.get(piece.id)"
          @hear="preview.toggle(piece.id)"
          @license="license(piece)"
          @stop="catalogue.stop(piece.id)"
        />
      </ul>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.card {
  display: flex;
  flex-direction: column;
}
.head {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 12px 12px 12px 20px;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.12);
}
h2 {
  font-size: 17px;
  font-weight: 600;
}
.words {
  flex: 1;
  padding: 7px 10px;
}
.words,
select {
  border-radius: 5px;
  color: inherit;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
}
select {
  padding: 6px 8px;
  margin-left: 6px;
}
.use {
  white-space: nowrap;
  font-size: 14px;
}
.state {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 22px 20px;
}
.pieces {
  flex: 1;
  margin: 0;
  padding: 0;
  overflow-y: auto;
}
</style>
