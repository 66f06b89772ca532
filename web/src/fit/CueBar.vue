<script setup lang="ts">
import type { Cue } from '@/api/client'
import {
  flicksToSeconds,
  formatClock,
  formatTimecode,
  framesToSeconds,
  nearestFrame,
  type Rate,
} from '@/time'
import { letKeysGo } from '@/keys/useKeys'
import { useSession, usePictureDesk, useCueDesk } from '@/desks/workbench'
import { mdiChevronDown } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import SaveButton from './SaveButton.vue'

const props = defineProps<{
  cue: Cue
  rate: Rate
  trackTitle: string
  trialFlicks: number | null
  fitId: number | null
  canSave: boolean
  hasBars: boolean
  /** Whether the fit before is seen and heard. */
  isBefore: boolean
}>()
const emit = defineEmits<{ now: [] }>()
const session = useSession()
const pictureDesk = usePictureDesk()
const cueDesk = useCueDesk()
const field = ref<HTMLInputElement | null>(null)
const text = ref('')
const refusal = ref('')
const isEditing = ref(false)
/** Counts the times somebody began to type: an answer to what was typed before must not disturb what is typed now. */
let edits = 0

const flicks = computed(() => props.trialFlicks ?? props.cue.slot_length_flicks)
const asTimecode = computed(() =>
  formatTimecode(nearestFrame(flicksToSeconds(flicks.value), props.rate), props.rate),
)
/** How far the cue runs on after its picture has ended, in seconds. */
const pastS = computed(() => {
  const picture = pictureDesk.picture.value
  if (!picture) return 0
  const leftS = framesToSeconds(picture.length_frames - props.cue.slot_start_frames, picture.rate)
  return Math.max(0, flicksToSeconds(flicks.value) - leftS)
})
const asClock = computed(() => formatClock(flicksToSeconds(flicks.value), 3))
watch(
  [asClock, isEditing],
  () => {
    if (!isEditing.value) text.value = asClock.value
  },
  { immediate: true },
)

async function seen(): Promise<void> {
  const said = await cueDesk.updateCue({ look_again: false })
  if (said) session.message.value = said
}

function focusLength(): void {
  field.value?.focus()
}

function begin(): void {
  edits++
  isEditing.value = true
  field.value?.select()
}

function cancel(): void {
  refusal.value = ''
  isEditing.value = false
  field.value?.blur()
}

/** Leaving the field is what sets the length, so that the next key already belongs to the page. */
function enter(): void {
  refusal.value = ''
  field.value?.blur()
}

/** What was typed goes to the server as it is: reading times is the core's work. */
async function leave(): Promise<void> {
  if (!isEditing.value || refusal.value) return
  if (text.value.trim() === asClock.value) return cancel()
  const mine = edits
  const said = (await cueDesk.updateCue({ length: text.value.trim() || '?' })) ?? ''
  if (mine !== edits) return
  refusal.value = said
  if (refusal.value) field.value?.focus()
  else cancel()
}
defineExpose({ focusLength })
</script>

<template>
  <div class="bar">
    <div class="cue">
      <v-menu :disabled="cueDesk.cues.value.length < 2" @after-leave="letKeysGo">
        <template #activator="{ props: opens }">
          <button v-bind="opens" class="title" :title="`${cue.number} ${cue.name}`" aria-label="Choose a cue">
            <span class="number">{{ cue.number }}</span> {{ cue.name }}
            <v-icon v-if="cueDesk.cues.value.length > 1" :icon="mdiChevronDown" size="18" />
          </button>
        </template>
        <v-list density="compact">
          <v-list-item
            v-for="c in cueDesk.cues.value"
            :key="c.id"
            :title="`${c.number} ${c.name}`"
            :subtitle="formatClock(flicksToSeconds(c.slot_length_flicks), 1)"
            :active="c.id === cue.id"
            @click="cueDesk.cueId.value = c.id"
          />
        </v-list>
      </v-menu>
      <div v-if="isBefore" class="small again" role="status">
        The fit before this one.
        <v-btn size="x-small" title="See and hear the fit as it is now (E)" @click="emit('now')"
          >Back to now</v-btn
        >
      </div>
      <div v-else-if="cue.look_again" class="small again" role="status">
        The picture changed under this cue; its seams were kept where they could be.
        <v-btn size="x-small" @click="seen">Seen</v-btn>
      </div>
      <div v-else class="quiet small">
        {{ trackTitle ? `with ${trackTitle}` : 'no track chosen' }}
        <span v-if="pastS > 0" class="past" role="status"
          >· runs {{ formatClock(pastS, 2) }} past the end of its picture</span
        >
      </div>
    </div>
    <div class="length">
      <label for="length">Length</label>
      <input
        id="length"
        ref="field"
        v-model="text"
        class="figure"
        autocomplete="off"
        spellcheck="false"
        title="1:12, 112, 72s, 72.5s, 48f or 00:01:12:00 (L)"
        :aria-invalid="!!refusal"
        aria-describedby="length-refusal"
        @focus="begin"
        @input="refusal = ''"
        @keydown.enter.prevent="enter"
        @keydown.esc.prevent="cancel"
        @blur="leave"
      />
      <span class="figure quiet timecode">{{ asTimecode }}</span>
      <div id="length-refusal" class="refusal" role="alert">{{ refusal }}</div>
    </div>
    <SaveButton :fit-id="fitId" :can-save="canSave" :has-bars="hasBars" />
  </div>
</template>

<style scoped>
.past {
  color: rgb(var(--v-theme-warning));
}
.bar {
  display: flex;
  align-items: center;
  gap: 24px;
  height: 62px;
  padding: 0 16px;
  flex: none;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.cue {
  flex: 1;
  min-width: 0;
}
.title {
  font-size: 17px;
  font-weight: 600;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
button.title {
  max-width: 100%;
  padding: 0;
  color: inherit;
  background: none;
  border: 0;
  text-align: left;
}
.again {
  color: rgb(var(--v-theme-primary));
}
.number {
  color: rgb(var(--v-theme-primary));
}
.small {
  font-size: 13px;
}
.length {
  position: relative;
  display: flex;
  align-items: center;
  gap: 10px;
}
input {
  width: 118px;
  padding: 5px 10px;
  font-size: 20px;
  text-align: right;
  border-radius: 6px;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.25);
  color: inherit;
}
input[aria-invalid='true'] {
  border-color: rgb(var(--v-theme-error));
}
.timecode {
  font-size: 15px;
}
.refusal {
  position: absolute;
  right: 0;
  top: calc(100% + 2px);
  width: max-content;
  max-width: 520px;
  z-index: 5;
  padding: 0 8px;
  font-size: 13px;
  background: rgb(var(--v-theme-background));
  color: rgb(var(--v-theme-error));
}
</style>
