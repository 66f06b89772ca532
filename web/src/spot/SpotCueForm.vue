<script setup lang="ts">
import type { Cue, Picture } from '@/api/client'
import { COLOUR_NAMES, cueColour, STATUS_WORDS, type CueColour, type CueStatus } from '@/words/spotting'
import { flicksToSeconds, formatClock, framesToSeconds, nearestFrame } from '@/time'
import { useSession, usePictureDesk, useCueDesk } from '@/desks/workbench'
import { computed } from 'vue'
import { useTheme } from 'vuetify'
import CellField from '@/fields/CellField.vue'

/** All about one cue; what is typed is kept when its field is left. */
const props = defineProps<{ cue: Cue; picture: Picture; at: (frames: number) => string }>()
const session = useSession()
const pictureDesk = usePictureDesk()
const cueDesk = useCueDesk()
const theme = useTheme()
const dark = computed(() => theme.current.value.dark)
const end = computed(() =>
  nearestFrame(
    framesToSeconds(props.cue.slot_start_frames, props.picture.rate) +
      flicksToSeconds(props.cue.slot_length_flicks),
    props.picture.rate,
  ),
)
const ready = computed(() => (session.tracks.value ?? []).filter((t) => t.state === 'ready'))
const length = computed(() => formatClock(flicksToSeconds(props.cue.slot_length_flicks), 3))
type Change = Parameters<typeof pictureDesk.slots.change>[1]
const change = (body: Change, seen: number | undefined = props.cue.revision) =>
  void pictureDesk.slots.change(props.cue.id, { ...body, revision: seen })

const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <div class="form">
    <p v-if="cue.look_again" class="again" role="status">
      The picture changed under this cue.
      <router-link to="/fit" class="link" @click="cueDesk.cueId.value = cue.id">Look at its fit</router-link>
      <v-btn size="x-small" @click="change({ look_again: false })">Seen</v-btn>
    </p>
    <label
      >Number<CellField
        :value="cue.number"
        maxlength="20"
        :revision="cue.revision"
        @set="(t: string, seen?: number) => change({ number: t || cue.number }, seen)"
    /></label>
    <label class="wide"
      >Name<CellField
        :value="cue.name"
        maxlength="200"
        :revision="cue.revision"
        @set="(t: string, seen?: number) => change({ name: t || cue.name }, seen)"
    /></label>
    <label
      >In<CellField
        class="figure"
        :value="at(cue.slot_start_frames)"
        :revision="cue.revision"
        @set="(t: string, seen?: number) => change({ start: t }, seen)"
    /></label>
    <label
      >Out<CellField
        class="figure"
        :value="at(end)"
        :revision="cue.revision"
        @set="(t: string, seen?: number) => change({ end: t }, seen)"
    /></label>
    <label
      >Length<CellField
        class="figure"
        :value="length"
        :revision="cue.revision"
        @set="(t: string, seen?: number) => change({ length: t }, seen)"
    /></label>
    <label>
      Status
      <select :value="cue.status" @change="change({ status: valueOf($event) as CueStatus })">
        <option v-for="(words, status) in STATUS_WORDS" :key="status" :value="status">{{ words }}</option>
      </select>
    </label>
    <label class="wide">
      Track
      <select
        :value="cue.track_id ?? ''"
        @change="change({ track_id: valueOf($event) ? Number(valueOf($event)) : null })"
      >
        <option value="">none yet</option>
        <option v-for="t in ready" :key="t.id" :value="t.id">{{ t.title }}</option>
      </select>
    </label>
    <div class="wide colours" role="radiogroup" aria-label="Colour">
      <span>Colour</span>
      <button
        v-for="name in COLOUR_NAMES"
        :key="name"
        role="radio"
        :aria-checked="cue.colour === name"
        :aria-label="name"
        :title="name"
        :style="{ background: cueColour(name, dark) }"
        @click="change({ colour: name as CueColour })"
      />
    </div>
    <label class="full">
      Notes
      <CellField
        :value="cue.notes"
        :rows="3"
        maxlength="2000"
        :revision="cue.revision"
        @set="(t: string, seen?: number) => change({ notes: t }, seen)"
      />
    </label>
    <div class="full foot">
      <v-btn
        size="small"
        variant="text"
        color="error"
        title="Undo brings it back"
        @click="pictureDesk.slots.remove(cue.id)"
        >Remove the cue</v-btn
      >
    </div>
  </div>
</template>

<style scoped>
.form {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  align-content: start;
  gap: 10px 12px;
  padding: 12px 14px;
  font-size: 13px;
}
.wide {
  grid-column: span 2;
}
.full,
.again {
  grid-column: 1 / -1;
}
label {
  display: flex;
  flex-direction: column;
  gap: 3px;
  min-width: 0;
}
input,
select,
textarea {
  width: 100%;
  padding: 5px 8px;
  color: inherit;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
  border-radius: 4px;
  font-size: 14px;
}
select option {
  background: rgb(var(--v-theme-surface-bright));
}
.colours {
  display: flex;
  align-items: center;
  gap: 8px;
}
.colours button {
  width: 24px;
  height: 24px;
  border-radius: 5px;
}
.colours button[aria-checked='true'] {
  outline: 2px solid rgb(var(--v-theme-on-surface));
  outline-offset: 2px;
}
.again {
  margin: 0;
  color: rgb(var(--v-theme-primary));
}
.link {
  color: inherit;
  margin-right: 8px;
}
</style>
