<script setup lang="ts">
import type { Picture } from '@/api/client'
import { formatTimecode } from '@/time'
import { usePictureDesk } from '@/desks/workbench'
import { computed, ref, type StyleValue } from 'vue'

/** A new version whose shots no reel names: the ways to say which is which, and what their order and lengths say. */
const props = defineProps<{ picture: Picture }>()
const emit = defineEmits<{ film: [] }>()
const { lists } = usePictureDesk()
const { likeness } = lists
const { found, refused } = likeness
const listPicker = ref<HTMLInputElement | null>(null)
const UNSURE_PCT = 80
const THUMB_PX = 46

type Shot = NonNullable<typeof found.value>['shots'][number]
const at = (frames: number) => formatTimecode(props.picture.start_frames + frames, props.picture.rate)
const lengthOf = (span: Shot['before']) => (span ? span.end_frames - span.start_frames : 0)
const isRefused = (s: Shot) => s.old_index !== null && refused.value.has(s.old_index)
const rows = computed(() =>
  (found.value?.shots ?? []).map((s) => {
    const by = s.before && s.after ? lengthOf(s.after) - lengthOf(s.before) : 0
    const length = by ? `${by > 0 ? '+' : '−'}${Math.abs(by)} frames` : 'as long'
    return { ...s, how: isRefused(s) ? 'not the same' : !s.before ? 'new' : !s.after ? 'gone' : length }
  }),
)
const unsure = computed(() => rows.value.filter((r) => r.sure_pct !== null && r.sure_pct < UNSURE_PCT).length)
/** The old shot as it looks: its picture on the film's sheet of small ones. */
function look(s: Shot): StyleValue | undefined {
  const { thumbs, thumbs_url: url } = props.picture.film ?? {}
  if (!thumbs || !url || !s.before) return undefined
  const middle = (s.before.start_frames + s.before.end_frames) / 2
  const k = Math.min(Math.floor(middle / thumbs.every_frames), thumbs.count - 1)
  const scale = THUMB_PX / thumbs.width_px
  const height = thumbs.height_px * scale
  return {
    width: `${THUMB_PX}px`,
    height: `${height}px`,
    backgroundImage: `url("${url}")`,
    backgroundSize: `${thumbs.per_row * THUMB_PX}px auto`,
    backgroundPosition: `${-(k % thumbs.per_row) * THUMB_PX}px ${-Math.floor(k / thumbs.per_row) * height}px`,
  }
}
const nameOf = (s: Shot, i: number) => s.name || (s.after ? `shot ${i + 1}` : `old shot ${s.old_index! + 1}`)

async function readOldList(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const old = input.files?.[0]
  const list = likeness.file.value
  input.value = ''
  if (!old || !list) return
  likeness.leave()
  await lists.importMarks(old)
  await lists.addVersion(props.picture.id, list)
}

function giveFilm(): void {
  likeness.leave()
  emit('film')
}
</script>

<template>
  <v-dialog :model-value="!!found" max-width="760" scrollable @update:model-value="likeness.leave()">
    <v-card title="Which shot is which?">
      <v-card-text class="text">
        <p>{{ likeness.words.value }}</p>
        <div class="ways">
          <v-btn size="small" variant="tonal" @click="giveFilm">Give the new film …</v-btn>
          <v-btn size="small" variant="tonal" @click="listPicker?.click()">Give the old edit list …</v-btn>
        </div>
        <h3>
          By order and length
          <span v-if="unsure" class="quiet"
            >{{ unsure }} less than {{ UNSURE_PCT }} % sure: look at those</span
          >
        </h3>
        <table aria-label="Shots of the new version beside the old ones">
          <thead>
            <tr>
              <th>Same</th>
              <th>Shot</th>
              <th>Was at</th>
              <th>Is at</th>
              <th>Length</th>
              <th>Sure</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(s, i) in rows"
              :key="i"
              :class="{ unsure: s.sure_pct !== null && s.sure_pct < UNSURE_PCT, alone: s.sure_pct === null }"
            >
              <td>
                <input
                  v-if="s.sure_pct !== null"
                  type="checkbox"
                  :checked="!isRefused(s)"
                  :aria-label="`${nameOf(s, i)} is the same shot`"
                  @change="likeness.toggle(s.old_index!)"
                />
              </td>
              <td>
                <div class="shot">
                  <span v-if="look(s)" class="look" :style="look(s)" /><span class="one-line">{{
                    nameOf(s, i)
                  }}</span>
                </div>
              </td>
              <td class="figure">{{ s.before ? at(s.before.start_frames) : '' }}</td>
              <td class="figure">{{ s.after ? at(s.after.start_frames) : '' }}</td>
              <td>{{ s.how }}</td>
              <td class="figure">
                <template v-if="s.sure_pct !== null">
                  <span class="bar" aria-hidden="true"><i :style="{ width: `${s.sure_pct}%` }" /></span
                  >{{ s.sure_pct }} %
                </template>
              </td>
            </tr>
          </tbody>
        </table>
      </v-card-text>
      <v-card-actions>
        <span class="quiet">{{
          found?.n_carried === found?.n_marks
            ? 'All marks and cues come along.'
            : `${found?.n_carried} of ${found?.n_marks} marks and cues come along; the others are listed.`
        }}</span>
        <v-spacer />
        <v-btn variant="text" @click="likeness.leave()">Leave it</v-btn>
        <v-btn color="primary" @click="likeness.carry()">Make the new version</v-btn>
      </v-card-actions>
    </v-card>
    <input
      ref="listPicker"
      type="file"
      accept=".edl,.otio,.txt"
      hidden
      data-adds="old-list"
      @change="readOldList"
    />
  </v-dialog>
</template>

<style scoped>
.text {
  font-size: 14px;
  line-height: 1.5;
}
.ways {
  display: flex;
  gap: 8px;
  margin: 10px 0 4px;
}
h3 {
  margin: 12px 0 6px;
  font-size: 14px;
}
h3 .quiet {
  margin-left: 10px;
  font-weight: 400;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
th {
  padding: 2px 8px 4px 0;
  font-weight: 400;
  text-align: left;
  opacity: 0.75;
}
td {
  padding: 3px 8px 3px 0;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.08);
  max-width: 200px;
}
.shot {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 27px;
}
.look {
  flex: none;
  background-repeat: no-repeat;
  border-radius: 2px;
}
input[type='checkbox'] {
  accent-color: rgb(var(--v-theme-primary));
}
.unsure {
  color: rgb(var(--v-theme-primary));
}
.alone td {
  opacity: 0.7;
}
.bar {
  display: inline-block;
  width: 54px;
  height: 6px;
  margin-right: 8px;
  vertical-align: middle;
  background: rgba(var(--v-theme-on-surface), 0.16);
  border-radius: 3px;
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: currentColor;
}
</style>
