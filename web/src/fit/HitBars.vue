<script setup lang="ts">
import type { Chart, Choice, CueFit } from '@/api/client'
import {
  barWords,
  canBePinned,
  choicesFor,
  chosenOf,
  countWords,
  eitherSideWords,
  moreWords,
} from '@/words/choices'
import type { LandedHit } from '@/drawing/hits'
import { offInWords } from '@/drawing/hits'
import { speedWords } from '@/drawing/speeds'
import { computed } from 'vue'
import { usePinnedBars } from './usePinnedBars'

/** Which bar lands on which hit, what each other one would do to the tempo, and what is pinned: the tempo by the keys. */
const props = defineProps<{
  fit: CueFit | undefined
  hits: LandedHit[]
  chart: Chart
  method: string
  followsMap: boolean
}>()
const emit = defineEmits<{ seek: [seconds: number] }>()
const { pinned, isPinned, keptOff, move, pin, letGo, letAllGo, keepOff, allow } = usePinnedBars(
  () => props.hits,
)

const bpm = computed(() => props.chart.tempo_bpm)
const rows = computed(() =>
  props.hits.filter(canBePinned).map((hit) => {
    const offered = choicesFor(props.fit?.choices ?? [], hit, props.chart.rate)
    return { hit, offered, now: chosenOf(offered) }
  }),
)
const aimsAtHits = computed(() => props.method === 'bend' || props.method === 'blend')

function optionWords(choice: Choice, now: Choice | undefined): string {
  if (choice === now) return barWords(choice)
  const said = [moreWords(choice, now, props.chart.beats_per_bar), eitherSideWords(choice)].filter(Boolean)
  return said.length ? `${barWords(choice)}: ${said.join(' · ')}` : barWords(choice)
}
const sinceWords = (choice: Choice | undefined) =>
  choice?.beats_before == null ? '' : countWords(choice.beats_before, props.chart.beats_per_bar)
const sideWords = (pct: number | null | undefined) => (pct == null ? '–' : speedWords(pct, bpm.value))

function chosen(event: Event, hit: LandedHit): void {
  const source = Number((event.target as HTMLSelectElement).value)
  if (source) void move(hit, source)
}
</script>

<template>
  <section class="below" aria-label="Bars on the hits">
    <p v-if="chart.free_time" class="quiet">This track is in free time: it has no bars to land on a hit.</p>
    <p v-else-if="!rows.length" class="quiet">
      No hit of a downbeat, a beat or a section lies in this slot. Mark some on Spot; which bar lands on which
      is chosen here then.
    </p>
    <p v-else-if="!aimsAtHits" class="quiet">
      This way of fitting does not aim at hits. Bend or blend do; choose one under Other ways.
    </p>
    <p v-else-if="followsMap" class="quiet">
      The track follows a tempo map, which says where its bars are. Let go of the map under Tempo to choose
      them here.
    </p>
    <table v-else aria-label="Bars on the hits">
      <thead>
        <tr>
          <th>Hit</th>
          <th colspan="2">Met by</th>
          <th>Lands</th>
          <th title="How much is played since what is held before it">Bars before</th>
          <th>Speed before</th>
          <th>Speed after</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="({ hit, offered, now }, i) in rows" :key="i" :class="{ missed: !hit.isKept }">
          <td>
            <button
              class="press"
              :aria-label="`Go to hit ${hit.label || i + 1}`"
              @click="emit('seek', hit.askedS)"
            >
              {{ hit.label || i + 1 }}
            </button>
          </td>
          <td>
            <select
              :aria-label="`Bar on ${hit.label || `hit ${i + 1}`}`"
              :value="offered?.source_samples ?? ''"
              @change="chosen($event, hit)"
            >
              <option v-if="!now" :value="offered?.source_samples ?? ''">none of these</option>
              <option v-for="c in offered?.choices ?? []" :key="c.source_samples" :value="c.source_samples">
                {{ optionWords(c, now) }}
              </option>
            </select>
          </td>
          <td>
            <button
              class="press"
              :aria-pressed="isPinned(hit)"
              :disabled="!isPinned(hit) && !now"
              :aria-label="`Pin the bar on ${hit.label || `hit ${i + 1}`}`"
              title="This bar, and no other, is to meet the hit, whatever else changes"
              @click="isPinned(hit) ? letGo(hit) : pin(hit, now!.source_samples)"
            >
              {{ isPinned(hit) ? 'pinned' : 'pin' }}
            </button>
            <button
              v-if="now"
              class="press"
              :aria-label="`Another bar on ${hit.label || `hit ${i + 1}`}`"
              title="Keep this bar off the hit and land another on it"
              @click="keepOff(hit, now.source_samples)"
            >
              not this
            </button>
            <button v-if="keptOff(hit)" class="press" @click="allow(hit)">
              allow {{ keptOff(hit) }} again
            </button>
          </td>
          <td class="figure">{{ hit.isKept ? '' : 'missed: ' }}{{ offInWords(hit) }}</td>
          <td class="figure">{{ sinceWords(now) }}</td>
          <td class="figure">{{ sideWords(now?.before_pct) }}</td>
          <td class="figure">{{ sideWords(now?.after_pct) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="rows.length && aimsAtHits && !followsMap" class="quiet note">
      Speeds are what the music needs from one held place to the next, all else staying where it is. A bar
      that is chosen, or dragged to a hit in the lanes, is pinned to it<template v-if="method === 'bend'"
        >, and so are those on the other hits, where that can be had</template
      >.
      <button v-if="pinned.length > 1" class="press" @click="letAllGo">let all go</button>
    </p>
  </section>
</template>

<style scoped>
tr.missed td {
  color: rgb(var(--v-theme-warning));
}
@media (max-width: 1180px) {
  td.figure {
    min-width: 64px;
    white-space: normal;
  }
}
select {
  width: 150px;
  padding: 2px 6px;
  border-radius: 5px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.25);
  background: rgb(var(--v-theme-surface-bright));
  color: inherit;
}
.note {
  margin: 6px 0 0;
  font-size: 13px;
}
</style>
