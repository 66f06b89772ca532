<script setup lang="ts">
import type { CueAsks } from '@/api/client'
import { waysQuery } from '@/api/queries'
import { endsInWords, METHOD_WORDS, seamsInWords, speedInWords, type Method } from '@/drawing/ways'
import { useWorkbench } from '@/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import CellField from './CellField.vue'

/** What is asked of the fit beside its length, and what every method makes of that: one is chosen by pressing it. */
const bench = useWorkbench()
const { cue, track, chart } = bench
const isReady = computed(() => cue.value !== undefined && track.value?.state === 'ready')
const ways = useQuery(
  computed(() => ({
    ...waysQuery(cue.value, track.value?.id ?? null, track.value?.chart_id ?? ''),
    enabled: isReady.value,
  })),
)
const asks = computed(() => (cue.value?.asks ?? {}) as CueAsks)
const method = computed<Method>(() => asks.value.method ?? 'blend')
/** A blend without hits is a rearrangement and stands in the table once. */
const isChosen = (name: string) =>
  name === method.value ||
  (name === 'blend' &&
    method.value === 'rearrange' &&
    !ways.data.value?.some((w) => w.method === 'rearrange'))

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

async function ask(change: Partial<CueAsks>): Promise<void> {
  const { method: kept, give_pct, hold_bars, max_seams, early_pct, silence_s, opening } = asks.value
  const all = { method: kept, give_pct, hold_bars, max_seams, early_pct, silence_s, opening, ...change }
  const given = Object.fromEntries(Object.entries(all).filter(([, v]) => v !== undefined && v !== null))
  const refusal = await bench.updateCue({ asks: given as CueAsks })
  if (refusal) bench.message.value = refusal
}
function typed(name: keyof CueAsks, text: string): void {
  const value = Number(text.replace(',', '.').replace(/[^0-9.-]/g, '') || Number.NaN)
  if (text && Number.isNaN(value))
    bench.message.value = `“${text}” is no number. Leave it empty for the usual.`
  else void ask({ [name]: text ? value : undefined })
}
function opens(where: string): void {
  void ask({ opening: where ? (where as CueAsks['opening']) : undefined })
}
</script>

<template>
  <section class="ways" aria-label="Other ways">
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
          @change="(e) => opens((e.target as HTMLSelectElement).value)"
        >
          <option value="">as it does itself, unless hits need more</option>
          <option value="own">as it does itself</option>
          <option value="section">at a section</option>
          <option value="bar">on any downbeat</option>
        </select>
      </label>
    </div>
    <p v-if="ways.error.value" class="problem" role="alert">{{ ways.error.value.message }}</p>
    <table v-else-if="ways.data.value" aria-label="Ways to fit">
      <thead>
        <tr>
          <th>Way</th>
          <th>Seams</th>
          <th>Speed</th>
          <th>Hits</th>
          <th>Opening</th>
          <th>Ending</th>
          <th>Sections</th>
          <th>Heard twice</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="way in ways.data.value" :key="way.method" :class="{ chosen: isChosen(way.method) }">
          <td>
            <button
              class="choose"
              :aria-pressed="isChosen(way.method)"
              :disabled="!way.costs"
              :title="METHOD_WORDS[way.method as Method].says"
              @click="ask({ method: way.method as Method })"
            >
              {{ METHOD_WORDS[way.method as Method].name }}
            </button>
          </td>
          <template v-if="way.costs">
            <td>{{ seamsInWords(way.costs) }}</td>
            <td>{{ speedInWords(way.costs) }}</td>
            <td>{{ way.costs.hits ? `${way.costs.hits_kept} of ${way.costs.hits}` : '–' }}</td>
            <td v-for="(words, i) in endsInWords(way.costs, chart?.rate ?? 1)" :key="i">{{ words }}</td>
            <td class="sections" :title="way.costs.sections">{{ way.costs.sections }}</td>
            <td class="figure">{{ Math.round(way.costs.repeated_pct) }} %</td>
          </template>
          <td v-else colspan="7" class="quiet">{{ way.problem?.detail }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet" role="status">Trying every way …</p>
  </section>
</template>

<style scoped>
.ways {
  flex: none;
  height: 26vh;
  min-height: 236px;
  overflow: auto;
  padding: 8px 16px;
  background: rgb(var(--v-theme-surface));
  font-size: 14px;
}
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
table {
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 500;
  opacity: 0.7;
}
th,
td {
  padding: 1px 14px 1px 0;
  white-space: nowrap;
}
.sections {
  max-width: 14ch;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.choose {
  min-width: 92px;
  padding: 1px 8px;
  text-align: left;
  border-radius: 4px;
  border: 1px solid rgba(var(--v-theme-on-surface), 0.3);
  background: none;
}
.choose:disabled {
  opacity: 0.5;
}
.choose:not(:disabled):hover {
  border-color: rgb(var(--v-theme-primary));
}
.chosen .choose {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-on-primary));
  border-color: transparent;
}
.problem {
  color: rgb(var(--v-theme-error));
}
</style>
