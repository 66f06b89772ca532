<script setup lang="ts">
import { waysQuery } from '@/api/queries'
import { endsInWords, METHOD_WORDS, seamsInWords, speedInWords, type Method } from '@/words/ways'
import { useAsks } from './useAsks'
import { useCueDesk, useFitDesk } from '@/desks/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import AskFields from './AskFields.vue'

/** What is asked of the fit beside its length, and what every method makes of that: one is chosen by pressing it. */
const { cue, track } = useCueDesk()
const { chart } = useFitDesk()
const isReady = computed(() => cue.value !== undefined && track.value?.state === 'ready')
const ways = useQuery(
  computed(() => ({
    ...waysQuery(cue.value, track.value?.id ?? null, track.value?.chart_id ?? ''),
    enabled: isReady.value,
  })),
)
const { asks, ask } = useAsks()
const method = computed<Method>(() => asks.value.method ?? 'blend')
/** A blend without hits is a rearrangement and stands in the table once. */
const isChosen = (name: string) =>
  name === method.value ||
  (name === 'blend' &&
    method.value === 'rearrange' &&
    !ways.data.value?.some((w) => w.method === 'rearrange'))
</script>

<template>
  <section class="ways" aria-label="Other ways">
    <AskFields />
    <p v-if="ways.error.value" class="problem" role="alert">{{ ways.error.value.message }}</p>
    <table
      v-else-if="ways.data.value"
      aria-label="Ways to fit"
      :aria-busy="ways.isPlaceholderData.value"
      :class="{ stale: ways.isPlaceholderData.value }"
    >
      <thead>
        <tr>
          <th>Way</th>
          <th>Seams</th>
          <th>Speed</th>
          <th>Hits</th>
          <th>Opening</th>
          <th>Ending</th>
          <th>Sections</th>
          <th>Repeats</th>
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
table {
  border-collapse: collapse;
  font-size: 13px;
}
th {
  text-align: left;
  font-weight: 500;
  opacity: 0.7;
}
th,
td {
  padding: 1px 11px 1px 0;
  white-space: nowrap;
}
.stale td:not(:first-child) {
  opacity: 0.35;
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
