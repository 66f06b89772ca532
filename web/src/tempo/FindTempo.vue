<script setup lang="ts">
import type { Tempo } from '@/api/client'
import type { useTempo } from './useTempo'
import { offWords } from '@/drawing/hits'
import { computed } from 'vue'
import CellField from '@/fields/CellField.vue'
import ClickFields from './ClickFields.vue'
import { FORMS } from './forms'
import ReadMap from './ReadMap.vue'

/** Which steady tempo meets the hits of the picture: the table of them, and what one of them is saved as, or laid. */
const props = defineProps<{ tempo: ReturnType<typeof useTempo> }>()
const isClicking = defineModel<boolean>('click', { required: true })
const { asked, click, hits, query, rows, chosen, byBpm, step, save, startsWords } = props.tempo
const { laid, showsOwn, look, lay, read } = props.tempo
const METERS = [0, 2, 3, 4, 5, 6, 7] // 0: whichever suits

const failure = computed(() => (query.error.value as Error | null)?.message ?? '')
const metWords = (tempo: Tempo) => `${tempo.hits.filter((h) => h.is_met).length} of ${tempo.hits.length}`
const labels = computed(() => new Map(hits.value.map((h, i) => [h.id, h.label || `hit ${i + 1}`])))
const columns = computed(() => (rows.value[0]?.hits ?? []).map((h) => labels.value.get(h.hit_id) ?? ''))
const hasOthers = computed(() => rows.value.some((t) => t.also_bpm.length))
const title = (h: Tempo['hits'][number]) =>
  `Bar ${h.bar}, beat ${h.beat}: ${offWords(h.off_frames)} frames ${h.is_met ? 'off' : 'off, which is too much'}`

function typed(name: 'lowBpm' | 'highBpm', text: string): void {
  const value = Number(text.replace(',', '.'))
  if (value > 0) asked[name] = value
}
function onKey(event: KeyboardEvent): void {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (!by) return
  event.preventDefault()
  event.stopPropagation()
  step(by)
}
</script>

<template>
  <section class="find" aria-label="Steady tempo">
    <div class="asked">
      <label title="The tempi that are tried">
        From
        <CellField
          class="field figure"
          aria-label="Slowest tempo"
          :value="asked.lowBpm"
          @set="(t) => typed('lowBpm', t)"
        />
        to
        <CellField
          class="field figure"
          aria-label="Fastest tempo"
          :value="asked.highBpm"
          @set="(t) => typed('highBpm', t)"
        />
        bpm
      </label>
      <label>
        Beats to a bar
        <select v-model.number="asked.meter" aria-label="Beats to a bar">
          <option v-for="m in METERS" :key="m" :value="m">{{ m || 'any' }}</option>
        </select>
      </label>
      <label title="Mark in with I to have it begin there">
        Bar one
        <select v-model="asked.isFromMark" aria-label="Where bar one begins">
          <option :value="false">anywhere</option>
          <option :value="true">{{ startsWords }}</option>
        </select>
      </label>
    </div>
    <p v-if="!hits.length" class="quiet empty">
      Mark the moments that the music has to meet (M): then the tempi that meet them stand here.
    </p>
    <p v-else-if="failure" class="empty" role="alert">{{ failure }}</p>
    <p v-else-if="!rows.length" class="quiet empty" role="status">Trying every tempo …</p>
    <template v-else>
      <div class="scroll" tabindex="0" aria-label="Tempi; up and down choose one" @keydown="onKey">
        <table aria-label="Tempi">
          <thead>
            <tr>
              <th>
                <button
                  title="Sort by tempo, or the best first"
                  :aria-pressed="byBpm"
                  @click="byBpm = !byBpm"
                >
                  Tempo {{ byBpm ? '↑' : '' }}
                </button>
              </th>
              <th v-if="!asked.meter" title="Beats to a bar">In</th>
              <th>Met</th>
              <th>Bar one</th>
              <th v-for="(label, i) in columns" :key="i" class="hit" :title="label">{{ label }}</th>
              <th v-if="hasOthers" title="Half, twice, or as many again: the same answer">As well as</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="t in rows"
              :key="t.bpm"
              :aria-selected="t === chosen"
              :class="{ chosen: t === chosen && !showsOwn }"
              @click="look(t.bpm)"
            >
              <td class="figure">
                <b>{{ t.bpm.toFixed(2) }}</b>
              </td>
              <td v-if="!asked.meter" class="figure">{{ t.meter }}</td>
              <td class="figure">{{ metWords(t) }}</td>
              <td class="figure">{{ t.starts_s.toFixed(2) }} s</td>
              <td
                v-for="h in t.hits"
                :key="h.hit_id"
                class="figure"
                :class="{ missed: !h.is_met }"
                :title="title(h)"
              >
                {{ h.bar }}.{{ h.beat }} <span class="off">{{ offWords(h.off_frames) }}</span>
              </td>
              <td v-if="hasOthers" class="figure off">
                {{ t.also_bpm.map((bpm) => bpm.toFixed(2)).join(', ') }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <div class="foot">
        <label title="Hear it with the picture (K stops, Space plays)">
          <input v-model="isClicking" type="checkbox" /> Click
        </label>
        <span class="quiet">Save {{ chosen?.bpm.toFixed(2) }} bpm as</span>
        <v-btn
          v-for="[form, words, about] in FORMS"
          :key="form"
          size="small"
          :title="about"
          @click="save(form)"
          >{{ words }}</v-btn
        >
        <v-btn size="small" title="Make it the tempo map of the picture" @click="lay"
          >Lay on the picture</v-btn
        >
      </div>
      <ClickFields
        v-model:count-in="click.countIn"
        v-model:parts="click.parts"
        v-model:has-accents="click.hasAccents"
      />
      <p class="quiet note">
        Bar and beat of every hit, and by how many frames the beat is late (+) or early (−).
      </p>
    </template>
    <div v-if="!laid.map.value" class="foot own">
      <span class="quiet">No tempo map lies on this picture.</span>
      <ReadMap words="Read one from MIDI" @read="read" />
    </div>
  </section>
</template>

<style scoped>
.find {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.asked,
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 16px;
}
.asked :deep(input) {
  width: 54px;
}
.own {
  padding-top: 6px;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.12);
}
th button {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-decoration: underline dotted;
}
.hit {
  max-width: 90px;
  overflow: hidden;
  text-overflow: ellipsis;
}
tbody tr {
  cursor: pointer;
}
.find td:first-child,
.find th:first-child {
  padding-left: 8px;
}
.chosen {
  background: rgba(var(--v-theme-primary), 0.16);
}
.empty {
  padding: 16px 4px;
}
.note {
  font-size: 12px;
}
</style>
