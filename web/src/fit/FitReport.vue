<script setup lang="ts">
import type { Plan, Seam, SeamSaid } from '@/api/client'
import { hitsInWords, offInWords, type LandedHit } from '@/drawing/hits'
import { mostSpeedPct } from '@/drawing/layout'
import { gradeInWords, keptInWords, smoothnessInWords, verdictInWords } from '@/words/seams'
import { HIT_WORDS, WEIGHT_WORDS } from '@/words/spotting'
import { flicksToSeconds, formatClock, formatTimecode, nearestFrame, type Rate } from '@/time'
import { computed } from 'vue'

const props = defineProps<{
  plan: Plan | null
  hits: LandedHit[]
  problem: string
  /** The seam that is being heard just now. */
  near: Seam | null
  rate?: Rate
  instead: number[]
  isOutdated: boolean
  /** What is said of its seams, in their order; and how many of all that could be are to be kept. */
  said: readonly SeamSaid[]
  nKept: number
}>()
defineEmits<{
  hear: [seam: Seam]
  keep: [seam: SeamSaid]
  forbid: [seam: SeamSaid]
  seek: [seconds: number]
  setLength: [flicks: number]
  fitAgain: []
}>()

const words = computed(() => {
  const plan = props.plan
  if (!plan) return ''
  const n = plan.seams.length
  const seams = n === 0 ? 'No seam' : n === 1 ? 'One seam' : `${n} seams`
  const change = mostSpeedPct(plan)
  const speed =
    Math.abs(change) < 0.005
      ? 'at its own speed throughout'
      : `at most ${Math.abs(change).toFixed(2)} % ${change > 0 ? 'faster' : 'slower'}`
  const exact = formatClock(plan.target_samples / plan.rate, 3)
  const hits = hitsInWords(props.hits)
  const tail = tailInWords(plan)
  const kept = keptInWords(props.said, props.nKept)
  return `${seams}, ${speed}${tail && `, ${tail}`}.${hits && ` ${hits}`}${kept && ` ${kept}`} Exactly ${exact}: ${plan.target_samples.toLocaleString('en')} samples at ${plan.rate.toLocaleString('en')} Hz.`
})
/** What the tail made up for, where it did. */
function tailInWords(plan: Plan): string {
  const rest = plan.rests.at(-1)
  if (rest && rest.out_out_samples === plan.target_samples)
    return `${((rest.out_out_samples - rest.out_in_samples) / plan.rate).toFixed(2)} s of silence after it`
  return plan.fade_out.shape === 'cosine'
    ? `${plan.landing.kind === 'fade' ? 'a fade of' : 'its ring-out faded over'} ${(plan.fade_out.n_samples / plan.rate).toFixed(2)} s`
    : ''
}
const atS = (seam: Seam) => seam.out_samples / (props.plan?.rate ?? 1)
const place = (s: number) =>
  props.rate ? formatTimecode(nearestFrame(s, props.rate), props.rate) : formatClock(s, 2)
</script>

<template>
  <section class="below" aria-label="Report">
    <div v-if="isOutdated" class="outdated" role="status">
      The track’s chart or the hits were changed since this was fitted. It stays as it is until you fit it
      again.
      <v-btn size="small" color="primary" @click="$emit('fitAgain')">Fit again</v-btn>
    </div>
    <template v-if="problem">
      <div class="problem" role="alert">{{ problem }}</div>
      <v-btn
        v-for="flicks in instead"
        :key="flicks"
        size="small"
        class="mr-2 mt-2"
        @click="$emit('setLength', flicks)"
      >
        Use {{ formatClock(flicksToSeconds(flicks), 2) }}
      </v-btn>
    </template>
    <div v-else-if="plan" class="words figure">{{ words }}</div>
    <slot v-if="plan && !problem" />
    <table v-if="hits.length && !problem" aria-label="Hits">
      <thead>
        <tr>
          <th>Hit</th>
          <th>Asked at</th>
          <th>Lands</th>
          <th>On</th>
          <th>Weight</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(hit, i) in hits" :key="i" :class="{ missed: !hit.isKept }">
          <td>
            <button
              class="press"
              :aria-label="`Go to hit ${hit.label || i + 1}`"
              title="Go there"
              @click="$emit('seek', hit.askedS)"
            >
              {{ hit.label || i + 1 }}
            </button>
          </td>
          <td class="figure">{{ place(hit.askedS) }}</td>
          <td class="figure">{{ hit.isKept ? '' : 'missed: ' }}{{ offInWords(hit) }}</td>
          <td>{{ HIT_WORDS[hit.kind] }}</td>
          <td>{{ WEIGHT_WORDS[hit.weight] }}</td>
        </tr>
      </tbody>
    </table>
    <table v-if="plan && plan.seams.length && !problem" aria-label="Seams">
      <thead>
        <tr>
          <th>Seam</th>
          <th>At</th>
          <th>Leaves at</th>
          <th>Goes on at</th>
          <th>Grade</th>
          <th>Smoother than</th>
          <th>Across it</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(seam, i) in plan.seams" :key="i" :class="{ near: seam === near }">
          <td>
            <button
              class="press"
              :aria-label="`Hear seam ${i + 1}`"
              title="Hear two bars around it"
              @click="$emit('hear', seam)"
            >
              {{ i + 1 }}
            </button>
          </td>
          <td class="figure">{{ place(atS(seam)) }}</td>
          <td class="figure">{{ formatClock(seam.source_from_samples / plan.rate, 2) }}</td>
          <td class="figure">{{ formatClock(seam.source_to_samples / plan.rate, 2) }}</td>
          <td>
            {{ gradeInWords(seam)
            }}<span v-if="verdictInWords(said[i])" class="heard">, heard: {{ verdictInWords(said[i]) }}</span>
          </td>
          <td class="figure">{{ smoothnessInWords(seam) }}</td>
          <td class="reason" :title="seam.reason">{{ seam.reason }}</td>
          <td>
            <button
              class="press"
              :aria-pressed="said[i]?.wish === 'kept'"
              :aria-label="`Keep seam ${i + 1}`"
              title="Keep this seam in every fit that has room for it"
              @click="said[i] && $emit('keep', said[i])"
            >
              keep
            </button>
            <button
              class="press"
              :aria-label="`Another join for seam ${i + 1}`"
              title="Leave this join out and fit with another"
              @click="said[i] && $emit('forbid', said[i])"
            >
              another
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.outdated {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 8px;
  font-size: 15px;
  color: rgb(var(--v-theme-warning));
}
.words {
  font-size: 15px;
  margin-bottom: 6px;
}
.problem {
  color: rgb(var(--v-theme-error));
  font-size: 15px;
  line-height: 1.5;
}
.reason {
  white-space: normal;
}
table + table {
  margin-top: 8px;
}
tr.missed td {
  color: rgb(var(--v-theme-warning));
}
tr.near td {
  color: rgb(var(--v-theme-primary));
}
</style>
