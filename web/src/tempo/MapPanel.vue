<script setup lang="ts">
import type { MapHit, Schemas } from '@/api/client'
import { offWords } from '@/drawing/hits'
import { bpmWords } from '@/drawing/tempoLane'
import { formatTimecode, nearestFrame } from '@/time'
import { usePictureDesk } from '@/desks/workbench'
import { computed, reactive, watch } from 'vue'
import CellField from '@/fields/CellField.vue'
import ClickFields from './ClickFields.vue'
import { FORMS } from './forms'
import ReadMap from './ReadMap.vue'
import type { useTempo } from './useTempo'

/** The tempo map of the picture by the keys: which bar is on which hit, metre and tempo from a bar on, and the bend to the hits. */
const props = defineProps<{ tempo: ReturnType<typeof useTempo> }>()
const isClicking = defineModel<boolean>('click', { required: true })
const { laid, click, hits, bar, read, saveOwn } = props.tempo
const { picture } = usePictureDesk()
type Choice = Schemas['BeatChoiceRead']

const NOTES = [2, 4, 8, 16] as const
const FOR_BARS = [null, 1, 2, 4, 8] as const
const map = computed(() => laid.map.value!)
const rows = computed(() =>
  map.value.hits.flatMap((met, i) => {
    const hit = hits.value.find((h) => h.id === met.hit_id)
    return hit ? [{ met, hit, name: hit.label || `hit ${i + 1}`, now: nowOf(met) }] : []
  }),
)
const nowOf = (met: MapHit) => met.choices.find((c) => c.bar === met.bar && c.beat === met.beat)
const isHeld = (hitId: number) => map.value.held.some((h) => h.hit_id === hitId)
/** Bar and beat of a beat by its number. */
function placeOf(index: number): { bar: number; beat: number } {
  const before = map.value.beat_in_bar.slice(0, index + 1).filter((beat) => beat === 0).length
  return { bar: before, beat: map.value.beat_in_bar[index]! + 1 }
}
/** What is held elsewhere than on a hit. */
const others = computed(() =>
  map.value.held
    .filter((h) => h.hit_id === null)
    .map((h) => ({ ...placeOf(h.beat), atS: map.value.at_s[h.beat]! })),
)
const words = ({ bar: at, beat }: { bar: number; beat: number }) =>
  beat === 1 ? `bar ${at}` : `bar ${at} beat ${beat}`
const choiceWords = (choice: Choice, now: Choice | undefined) =>
  choice === now
    ? words(choice)
    : `${words(choice)}: ${bpmWords(choice.before_bpm)} bpm before${choice.after_bpm === null ? '' : `, ${bpmWords(choice.after_bpm)} after`}`

const wanted = reactive({
  bars: null as number | null,
  bpm: null as number | null,
  mostPct: 4,
  isSmooth: true,
})
const barCount = computed(() => map.value.beat_in_bar.filter((beat) => beat === 0).length)
const bpmHere = computed(() => {
  const bars = map.value.at_s.flatMap((_, i) => (map.value.beat_in_bar[i] === 0 ? [i] : []))
  return map.value.bpm[bars[bar.value - 1] ?? 0] ?? 0
})
/** The metre that would be set: the one that is there, until another is typed. */
const metre = reactive({ numerator: 4, denominator: 4 as 2 | 4 | 8 | 16 })
const metreHere = computed(() => map.value.metres.filter((m) => m.bar <= bar.value).at(-1))
// By its values: a map that is read again with the same ones must not undo what was typed.
watch(
  [bar, () => metreHere.value?.numerator, () => metreHere.value?.denominator],
  ([, numerator, denominator]) => numerator && Object.assign(metre, { numerator, denominator }),
  { immediate: true },
)
const place = (atS: number) =>
  formatTimecode(picture.value!.start_frames + nearestFrame(atS, picture.value!.rate), picture.value!.rate)

/** A number that was typed, or none. */
function typed(text: string, take: (value: number) => void): void {
  const value = Number(text.replace(',', '.'))
  if (value > 0) take(value)
}
const hold = (choice: { bar: number; beat: number }, atFrames: number) =>
  laid.edit({ edit: 'hold', bar: choice.bar, beat: choice.beat, at_frames: atFrames })
function choose(event: Event, met: MapHit, atFrames: number): void {
  const choice = met.choices[(event.target as HTMLSelectElement).selectedIndex]
  if (choice && choice !== nowOf(met)) void hold(choice, atFrames)
}
function setMetre(): void {
  void laid.edit({ edit: 'metre', bar: bar.value, ...metre, bars: wanted.bars })
}
function setTempo(): void {
  void laid.edit({ edit: 'tempo', bar: bar.value, bpm: wanted.bpm ?? bpmHere.value, bars: wanted.bars })
  wanted.bpm = null
}
const shape = (smooth: boolean) => laid.edit({ edit: 'shape', smooth })
const bend = () => laid.edit({ edit: 'bend', most_pct: wanted.mostPct, smooth: wanted.isSmooth })
</script>

<template>
  <section class="map" aria-label="The picture's tempo map">
    <div class="scroll">
      <table v-if="rows.length" aria-label="Bars on the hits of the map">
        <thead>
          <tr>
            <th>Hit</th>
            <th>Met by</th>
            <th title="By how many frames the beat is late (+) or early (−)">Frames off</th>
            <th title="A bar that is held stays on its moment, whatever else is changed"></th>
            <th title="What the bars need since what is held before it">Tempo before</th>
            <th>After</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ met, hit, name, now } in rows" :key="hit.id">
            <td class="name" :title="name">{{ name }}</td>
            <td>
              <select
                :aria-label="`Bar on ${name}`"
                :value="now ? met.choices.indexOf(now) : -1"
                :disabled="!met.choices.length"
                @change="choose($event, met, hit.at_frames)"
              >
                <option v-for="(c, i) in met.choices" :key="i" :value="i">{{ choiceWords(c, now) }}</option>
              </select>
            </td>
            <td class="figure" :class="{ missed: !met.is_met }">{{ offWords(met.off_frames) }}</td>
            <td>
              <button
                class="press"
                :aria-pressed="isHeld(hit.id)"
                :disabled="!now"
                :aria-label="`Hold ${now ? words(now) : 'a bar'} on ${name}`"
                @click="
                  isHeld(hit.id)
                    ? laid.edit({ edit: 'let_go', bar: now!.bar, beat: now!.beat })
                    : hold(now!, hit.at_frames)
                "
              >
                {{ isHeld(hit.id) ? 'held' : 'hold' }}
              </button>
            </td>
            <td class="figure">{{ now ? bpmWords(now.before_bpm) : '–' }}</td>
            <td class="figure">{{ now?.after_bpm ? bpmWords(now.after_bpm) : '–' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="quiet">
        Mark the moments that the music has to meet (M), and bars can be brought to them.
      </p>
      <p v-if="others.length">
        Held elsewhere:
        <span v-for="o in others" :key="o.bar + o.beat / 100" class="other">
          {{ words(o) }} at {{ place(o.atS) }}
          <button
            class="press"
            :aria-label="`Let go of ${words(o)}`"
            @click="laid.edit({ edit: 'let_go', bar: o.bar, beat: o.beat })"
          >
            let go
          </button>
        </span>
      </p>
    </div>
    <div class="controls">
      <form class="row" aria-label="Bend to the hits" @submit.prevent="bend">
        <label title="How much faster or slower than it is now the map may become, nowhere more">
          To the hits within
          <CellField
            class="field figure"
            aria-label="Most change of tempo in per cent"
            :value="wanted.mostPct"
            @set="(t) => typed(t, (v) => (wanted.mostPct = v))"
          />
          %
        </label>
        <label><input v-model="wanted.isSmooth" type="checkbox" /> smoothly</label>
        <button class="press" :disabled="!rows.length">Bend</button>
        <span class="quiet" title="What the tempo is like from each held bar to the next">Between held</span>
        <button class="press" type="button" :disabled="!map.held.length" @click="shape(false)">
          one tempo
        </button>
        <button class="press" type="button" :disabled="!map.held.length" @click="shape(true)">a curve</button>
      </form>
      <div class="row" role="group" aria-label="From a bar on">
        <label title="Press a bar in the lane of the tempo, or type its number">
          From bar
          <CellField
            class="field figure"
            aria-label="Bar"
            :value="bar"
            @set="(t) => typed(t, (v) => (bar = Math.min(barCount, Math.max(1, Math.round(v)))))"
          />
        </label>
        <select v-model="wanted.bars" aria-label="For how many bars">
          <option v-for="n in FOR_BARS" :key="String(n)" :value="n">
            {{ n === null ? 'to the end' : n === 1 ? 'this bar only' : `for ${n} bars` }}
          </option>
        </select>
        <label>
          Metre
          <CellField
            class="field figure small"
            aria-label="Beats of the metre"
            :value="metre.numerator"
            @set="(t) => typed(t, (v) => (metre.numerator = Math.min(32, Math.max(1, Math.round(v)))))"
          />
          /
          <select v-model.number="metre.denominator" aria-label="Note of the metre">
            <option v-for="n in NOTES" :key="n" :value="n">{{ n }}</option>
          </select>
        </label>
        <button class="press" aria-label="Set the metre" @click="setMetre">set</button>
        <label>
          Tempo
          <CellField
            class="field figure"
            aria-label="Tempo from this bar"
            :value="wanted.bpm ?? bpmWords(bpmHere)"
            @set="(t) => typed(t, (v) => (wanted.bpm = v))"
          />
        </label>
        <button
          class="press"
          title="What is held after this bar, and would move, is let go"
          aria-label="Set the tempo"
          @click="setTempo"
        >
          set
        </button>
      </div>
      <div class="row" role="group" aria-label="The map as a file">
        <label title="Hear it with the picture (K stops, Space plays)">
          <input v-model="isClicking" type="checkbox" aria-label="Click of the map" /> Click
        </label>
        <span class="quiet">Save as</span>
        <button
          v-for="[form, name, about] in FORMS"
          :key="form"
          class="press"
          :title="about"
          @click="saveOwn(form)"
        >
          {{ name }}
        </button>
        <button class="press" title="Take the map off the picture" @click="laid.remove">Take away</button>
        <ReadMap words="Read another from MIDI" @read="read" />
      </div>
      <ClickFields
        v-model:count-in="click.countIn"
        v-model:parts="click.parts"
        v-model:has-accents="click.hasAccents"
      />
    </div>
  </section>
</template>

<style scoped>
.map,
.controls {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.map {
  flex: 1;
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
}
.name {
  max-width: 130px;
  overflow: hidden;
  text-overflow: ellipsis;
}
td select {
  width: 130px;
}
.row .press + .press {
  margin-left: 0;
}
.row :deep(.field) {
  width: 60px;
}
.row :deep(.small) {
  width: 34px;
}
.other {
  margin-right: 14px;
  white-space: nowrap;
}
@container (min-width: 880px) {
  .map {
    flex-direction: row;
    gap: 32px;
    min-height: 0;
  }
  .map .scroll {
    flex: 0 0 auto;
    max-width: 62%;
  }
  .controls {
    flex: 1;
    min-width: 0;
  }
}
</style>
