<script setup lang="ts">
import CellField from '@/fields/CellField.vue'
import ChartBar from './ChartBar.vue'
import ChartLanes from './ChartLanes.vue'
import { useKeys } from '@/keys/useKeys'
import { laneKeys } from '@/lanes/useLaneStack'
import type { ChartEdit } from '@/desks/useCorrections'
import { nearest, neighbour } from '@/drawing/grid'
import { formatClock } from '@/time'
import { useSession, useCueDesk, useFitDesk, useTransport } from '@/desks/workbench'
import { mdiContentCut } from '@mdi/js'
import { computed, onBeforeUnmount, ref, watch } from 'vue'

const session = useSession()
const { tracks } = session
const { track } = useCueDesk()
const { chart, peaks, correct } = useFitDesk()
const transport = useTransport()
const { player } = transport
const bar = ref<InstanceType<typeof ChartBar> | null>(null)
const lanes = ref<InstanceType<typeof ChartLanes> | null>(null)
const span = ref<[number, number] | null>(null)
const taps = ref<number[]>([])
let tapTimer = 0
const TAP_PAUSE_MS = 1800
const SHIFT_MS = 5

onBeforeUnmount(() => clearTimeout(tapTimer))
watch(
  () => track.value?.id,
  () => {
    span.value = null
    taps.value = []
  },
)

const nowSamples = () => Math.round(player.nowS.value * (chart.value?.rate ?? 1))
const step = (s: ChartEdit) => void correct.edit(s)

/** A tap counts from when it is heard; after a pause the taps are read. */
function tap(): void {
  if (!player.isPlaying.value) {
    session.message.value = 'Start the track with Space, then tap T once on every beat, first on a beat one.'
    return
  }
  taps.value.push(nowSamples())
  clearTimeout(tapTimer)
  tapTimer = window.setTimeout(() => {
    step({ kind: 'tap', taps_samples: taps.value })
    taps.value = []
  }, TAP_PAUSE_MS)
}

function beatOne(): void {
  if (chart.value) step({ kind: 'beat_one', at_samples: nearest(chart.value.beats, nowSamples()) })
}

function goTo(back: boolean, byBeat: boolean): void {
  if (!chart.value) return
  const at = neighbour(chart.value, nowSamples(), back, byBeat)
  if (at === null) return
  player.seek(at / chart.value.rate)
  lanes.value?.follow(at / chart.value.rate)
}

function mark(kind: 'keep' | 'skip' | 'guard'): void {
  if (!span.value) {
    session.message.value = 'Drag over the waveform first to choose some bars.'
    return
  }
  step({ kind: 'add_mark', mark: kind, start_samples: span.value[0], end_samples: span.value[1] })
  span.value = null
}

const point = (which: 'trim_start' | 'opening' | 'last_hit' | 'ring_out_end' | 'trim_end') =>
  step({ kind: 'point', point: which, at_samples: nowSamples() })

function setTags(text: string, revision: number | undefined): void {
  const tags = text.split(',').map((t) => t.trim())
  if (track.value) void session.updateTrack(track.value.id, { tags: tags.filter(Boolean), revision })
}

/** What the suggestion would take away, while it does. */
const suggestion = computed(() => {
  const c = chart.value
  if (!c || c.corrected.includes('trim_start') || c.corrected.includes('trim_end')) return ''
  const [head, tail] = [c.trim_start_samples / c.rate, (c.n_samples - c.trim_end_samples) / c.rate]
  const parts = [
    head > 0.1 && `${head.toFixed(2)} s at the head`,
    tail > 0.1 && `${tail.toFixed(2)} s at the tail`,
  ]
  return parts.filter(Boolean).join(', ')
})

useKeys(() => [
  {
    key: 'c',
    keys: 'C',
    words: 'Click on the beats',
    run: () => (transport.click.value = !transport.click.value),
  },
  {
    key: 'h',
    shift: false,
    keys: 'H, Shift H',
    words: 'Half the tempo, twice the tempo',
    run: () => step({ kind: 'halve' }),
  },
  { key: 'h', shift: true, run: () => step({ kind: 'double' }) },
  { key: 'b', keys: 'B', words: 'Beat one at the playhead', run: beatOne },
  { key: 't', keys: 'T', words: 'Tap the tempo while it plays', run: tap },
  { key: 'p', keys: 'P, M', words: 'Type a tempo, choose a metre', run: () => bar.value?.focusTempo() },
  { key: 'm', run: () => bar.value?.focusMeter() },
  {
    key: ',',
    keys: ', .',
    words: 'Shift the beats by 5 ms',
    run: () => step({ kind: 'shift', by_ms: -SHIFT_MS }),
  },
  { key: '.', run: () => step({ kind: 'shift', by_ms: SHIFT_MS }) },
  { key: 'ArrowLeft', keys: '← →, ↑ ↓', words: 'Go by bars, by beats', run: () => goTo(true, false) },
  { key: 'ArrowRight', run: () => goTo(false, false) },
  { key: 'ArrowUp', run: () => goTo(true, true) },
  { key: 'ArrowDown', run: () => goTo(false, true) },
  { key: '[', keys: '[ ]', words: 'Trim head or tail at the playhead', run: () => point('trim_start') },
  { key: ']', run: () => point('trim_end') },
  {
    key: 'o',
    keys: 'O, E, R',
    words: 'Opening, last hit, end of the ring-out here',
    run: () => point('opening'),
  },
  { key: 'e', run: () => point('last_hit') },
  { key: 'r', run: () => point('ring_out_end') },
  {
    key: 'n',
    keys: 'N',
    words: 'Split the section on the nearest bar',
    run: () => step({ kind: 'split_section', at_samples: nowSamples() }),
  },
  { key: 'k', keys: 'K, X, G', words: 'Keep, skip or guard the chosen bars', run: () => mark('keep') },
  { key: 'x', run: () => mark('skip') },
  { key: 'g', run: () => mark('guard') },
  { key: 'Escape', run: () => (span.value = null) },
  ...laneKeys(() => lanes.value),
  {
    key: 'd',
    keys: 'D',
    words: 'Zoom to the playhead',
    run: () => lanes.value?.zoomTo(player.nowS.value, 8),
  },
])

const emptyWords = computed(() => {
  if (!tracks.value) return 'Opening the production …'
  if (!tracks.value.length)
    return 'Drop tracks or whole folders anywhere on this page; each is listened to as it comes in.'
  if (!track.value) return 'Pick a track at the left to see what was heard in it.'
  if (track.value.state === 'listening') return `Listening to ${track.value.title} …`
  if (track.value.state !== 'ready')
    return `${track.value.title} could not be listened to. Pick another track.`
  return ''
})
</script>

<template>
  <template v-if="track && chart && peaks && !emptyWords">
    <ChartBar ref="bar" :track="track" :chart="chart" :taps="taps.length" @tap="tap" @beat-one="beatOne" />
    <ChartLanes
      ref="lanes"
      v-model:span="span"
      :chart="chart"
      :peaks="peaks"
      :clock="player"
      @seek="player.seek"
      @edit="step"
    />
    <div class="foot">
      <template v-if="span">
        <span class="figure"
          >{{ formatClock(span[0] / chart.rate, 2) }} to {{ formatClock(span[1] / chart.rate, 2) }}</span
        >
        <v-btn size="small" title="Every fit plays this whole (K)" @click="mark('keep')">Keep</v-btn>
        <v-btn size="small" title="No fit plays this (X)" @click="mark('skip')">Skip</v-btn>
        <v-btn size="small" title="No seam in here (G)" @click="mark('guard')">Guard</v-btn>
        <v-btn size="small" variant="text" @click="span = null">Let go</v-btn>
      </template>
      <template v-else-if="suggestion">
        <span>Not music: {{ suggestion }}.</span>
        <v-btn size="small" :prepend-icon="mdiContentCut" @click="step({ kind: 'accept_trim' })"
          >Trim it</v-btn
        >
        <span class="quiet aside">The file itself is never changed.</span>
      </template>
      <span v-else class="quiet">Space plays, C adds a click, B is beat one here, ? lists all keys.</span>
      <span class="rest" />
      <CellField
        :key="track.id"
        class="tags"
        :value="track.tags.join(', ')"
        :revision="track.revision"
        aria-label="Tags"
        placeholder="tags, with commas"
        title="Mood, genre or whatever you look for; with commas between"
        @set="setTags"
      />
      <v-btn
        size="small"
        variant="text"
        :disabled="!chart.corrected.length"
        title="Drop every correction but the marks; can be undone"
        @click="correct.drop()"
        >As heard</v-btn
      >
      <v-btn
        size="small"
        variant="text"
        :disabled="!!track.job"
        title="Listen to the track once more; corrections stay"
        @click="session.listenAgain(track.id)"
        >{{ track.job ? `Listening, ${Math.round(100 * track.job.progress)} %` : 'Hear again' }}</v-btn
      >
    </div>
  </template>
  <div v-else class="empty" role="status">{{ emptyWords || 'Opening the chart …' }}</div>
</template>

<style scoped>
.foot {
  display: flex;
  align-items: center;
  gap: 12px;
  height: 52px;
  flex: none;
  padding: 0 16px;
  border-top: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  font-size: 14px;
}
.rest {
  flex: 1;
}
.tags {
  flex: 0 1 200px;
  min-width: 90px;
  padding: 4px 8px;
  border-radius: 5px;
  color: inherit;
  background: rgb(var(--v-theme-surface-bright));
  border: 1px solid rgba(var(--v-theme-on-surface), 0.2);
}
.empty {
  flex: 1;
  display: grid;
  place-items: center;
  font-size: 17px;
  opacity: 0.8;
  padding: 40px;
  text-align: center;
}
@media (max-width: 1150px) {
  .aside {
    display: none;
  }
}
</style>
