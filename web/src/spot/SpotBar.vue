<script setup lang="ts">
import type { Picture } from '@/api/client'
import { formatFrame, type TimeUnit } from '@/time'
import { download } from '@/asking/download'
import { letKeysGo } from '@/keys/useKeys'
import { useSession, usePictureDesk } from '@/desks/workbench'
import {
  mdiArrowExpandHorizontal,
  mdiChevronDown,
  mdiMagnet,
  mdiMagnifyMinusOutline,
  mdiMagnifyPlusOutline,
} from '@mdi/js'
import { computed, ref } from 'vue'

const props = defineProps<{ picture: Picture; suggested: number; marked: [number, number] | null }>()
const emit = defineEmits<{
  hit: []
  in: []
  out: []
  cue: []
  line: []
  accept: []
  drop: []
  zoom: [factor: number]
  all: []
}>()
const unit = defineModel<TimeUnit>('unit', { required: true })
const snapping = defineModel<boolean>('snapping', { required: true })
const { tracks } = useSession()
const { lists, findDialogue } = usePictureDesk()
const picker = ref<HTMLInputElement | null>(null)
const UNITS: { value: TimeUnit; title: string }[] = [
  { value: 'timecode', title: 'Timecode' },
  { value: 'frames', title: 'Frames' },
  { value: 'feet', title: 'Feet + frames' },
  { value: 'seconds', title: 'Seconds' },
]
const FORMS = [
  ['.csv', 'Hits as a table (CSV)'],
  ['.edl', 'Shots and hits as an edit list (CMX 3600)'],
  ['.otio', 'All of it (OpenTimelineIO)'],
  ['.mid', 'Hits as markers (MIDI)'],
  ['.srt', 'Lines as captions (SRT)'],
  ['.vtt', 'Lines as captions (WebVTT)'],
] as const
const narrations = computed(() =>
  (tracks.value ?? []).filter((t) => t.state === 'ready' && t.id !== props.picture.sound_track_id),
)
const at = (frames: number) => formatFrame(frames, props.picture.rate, props.picture.start_frames, unit.value)

async function read(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  for (const file of files) await lists.importMarks(file)
}

const save = (form: string) => download(`/api/pictures/${props.picture.id}/marks?form=${form}`)
</script>

<template>
  <div class="bar">
    <v-btn
      size="small"
      color="primary"
      variant="flat"
      title="Mark a hit here, also while it plays (M)"
      @click="emit('hit')"
      >Mark hit</v-btn
    >
    <v-btn-group density="compact" variant="tonal" class="group">
      <v-btn size="small" title="Mark in here (I)" @click="emit('in')">In</v-btn>
      <v-btn size="small" title="Mark out after this frame (O)" @click="emit('out')">Out</v-btn>
      <v-btn
        size="small"
        title="A cue from in to out, or of this shot (C); Shift C: the whole picture"
        @click="emit('cue')"
        >Cue</v-btn
      >
      <v-btn size="small" title="A dialogue line from in to out (D)" @click="emit('line')">Line</v-btn>
    </v-btn-group>
    <span v-if="marked" class="figure quiet span">{{ at(marked[0]) }} to {{ at(marked[1]) }}</span>
    <template v-if="suggested">
      <span class="quiet">{{ suggested }} shot {{ suggested === 1 ? 'change' : 'changes' }} found</span>
      <v-btn size="small" @click="emit('accept')">Accept</v-btn>
      <v-btn size="small" variant="text" @click="emit('drop')">Throw away</v-btn>
    </template>
    <span class="rest" />
    <v-menu @after-leave="letKeysGo">
      <template #activator="{ props: opens }">
        <v-btn v-bind="opens" size="small" variant="text" :append-icon="mdiChevronDown">Find dialogue</v-btn>
      </template>
      <v-list density="compact" max-height="320">
        <v-list-item
          title="In the picture's own sound"
          :disabled="!picture.sound_track_id"
          @click="findDialogue(null)"
        />
        <v-divider />
        <v-list-item
          v-for="t in narrations"
          :key="t.id"
          :title="`In ${t.title}`"
          @click="findDialogue(t.id)"
        />
      </v-list>
    </v-menu>
    <v-menu @after-leave="letKeysGo">
      <template #activator="{ props: opens }">
        <v-btn v-bind="opens" size="small" variant="text" :append-icon="mdiChevronDown">Marks</v-btn>
      </template>
      <v-list density="compact">
        <v-list-item
          title="Read marks from a file …"
          subtitle="CSV, CMX 3600, OpenTimelineIO, SRT, WebVTT, MIDI"
          @click="picker?.click()"
        />
        <v-divider class="my-1" />
        <v-list-subheader>Save</v-list-subheader>
        <v-list-item v-for="[form, words] in FORMS" :key="form" :title="words" @click="save(form)" />
      </v-list>
    </v-menu>
    <input
      ref="picker"
      type="file"
      multiple
      accept=".csv,.edl,.otio,.srt,.vtt,.mid,.midi,.txt"
      hidden
      data-adds="marks"
      @change="read"
    />
    <select v-model="unit" aria-label="Times as" title="How times are shown (U)">
      <option v-for="u in UNITS" :key="u.value" :value="u.value">{{ u.title }}</option>
    </select>
    <v-btn
      :icon="mdiMagnet"
      size="small"
      variant="text"
      :color="snapping ? 'primary' : undefined"
      :aria-pressed="snapping"
      title="Dragged hits snap to shot changes"
      aria-label="Snapping"
      @click="snapping = !snapping"
    />
    <v-btn
      :icon="mdiMagnifyMinusOutline"
      size="small"
      variant="text"
      title="Zoom out (−)"
      aria-label="Zoom out"
      @click="emit('zoom', 1 / 1.5)"
    />
    <v-btn
      :icon="mdiMagnifyPlusOutline"
      size="small"
      variant="text"
      title="Zoom in (+)"
      aria-label="Zoom in"
      @click="emit('zoom', 1.5)"
    />
    <v-btn
      :icon="mdiArrowExpandHorizontal"
      size="small"
      variant="text"
      title="Show all (A)"
      aria-label="Show all"
      @click="emit('all')"
    />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px 8px;
  min-height: 42px;
  padding: 6px 10px 6px 14px;
  font-size: 13px;
  white-space: nowrap;
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
}
.group {
  flex: none;
  height: 28px;
}
.rest {
  flex: 1;
}
.span {
  overflow: hidden;
  text-overflow: ellipsis;
}
select {
  height: 27px;
  padding: 0 6px;
  color: inherit;
  background: transparent;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
  border-radius: 4px;
}
select option {
  background: rgb(var(--v-theme-surface-bright));
}
</style>
