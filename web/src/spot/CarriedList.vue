<script setup lang="ts">
import type { Carried } from '@/api/client'
import { CHANGE_WORDS } from '@/words/spotting'
import { computed } from 'vue'

/** What a new version of the picture changed, and what could not be carried onto it. */
const props = defineProps<{ carried: Carried; at: (frames: number) => string }>()
/** `place`: a cue that could not be carried, and where it is to start; without a frame, where the picture is. */
const emit = defineEmits<{ goTo: [frames: number]; place: [id: number, frames: number | null] }>()

const left = computed(() => [
  ...props.carried.left_hits.map((h) => `hit ${h.label || ''} at ${props.at(h.at_frames)}`),
  ...props.carried.left_lines.map((x) => `line at ${props.at(x.start_frames)}: ${x.text}`),
])
const shots = computed(() =>
  props.carried.moved.map((m) => {
    const length = (span: typeof m.before) => (span ? span.end_frames - span.start_frames : 0)
    const by = m.before && m.after ? length(m.after) - length(m.before) : 0
    return { ...m, by: by ? `${by > 0 ? '+' : '−'}${Math.abs(by)} frames` : '' }
  }),
)
</script>

<template>
  <div class="moved">
    <p>
      Carried from {{ carried.from_name }}.
      {{
        carried.n_same
          ? `${carried.n_same} ${carried.n_same === 1 ? 'shot has' : 'shots have'} not changed at all.`
          : 'Every shot moved or changed.'
      }}
    </p>
    <template v-if="carried.left_slots.length">
      <h3>Cues that need a place</h3>
      <div
        v-for="s in carried.left_slots"
        :key="s.id"
        class="placing"
        role="group"
        :aria-label="`Cue ${s.number}`"
      >
        <p>
          <b>{{ s.number }}</b> {{ s.name }}, at {{ at(s.start_frames) }} before: the frame it started on is
          gone.
        </p>
        <v-btn
          v-if="s.at_first_hit_frames != null"
          size="small"
          color="primary"
          title="Its first hit that was carried meets the same music as before"
          @click="emit('place', s.id, s.at_first_hit_frames)"
          >By its first hit, {{ at(s.at_first_hit_frames) }}</v-btn
        >
        <v-btn
          v-if="s.at_old_time_frames != null"
          size="small"
          variant="tonal"
          @click="emit('place', s.id, s.at_old_time_frames)"
          >When it was, {{ at(s.at_old_time_frames) }}</v-btn
        >
        <v-btn size="small" variant="tonal" title="At the frame that shows" @click="emit('place', s.id, null)"
          >Here</v-btn
        >
      </div>
    </template>
    <template v-if="left.length">
      <h3>Could not be carried</h3>
      <ul>
        <li v-for="words in left" :key="words">{{ words }}</li>
      </ul>
      <p class="quiet">They are still on {{ carried.from_name }}, at the times given here.</p>
    </template>
    <h3>Shots</h3>
    <ul>
      <li v-for="(m, i) in shots" :key="i">
        <button class="goto" :disabled="!m.after" @click="m.after && emit('goTo', m.after.start_frames)">
          <span class="change">{{ CHANGE_WORDS[m.change] }}</span>
          <span class="shot one-line">{{ m.name || 'a shot' }}</span>
          <span class="quiet figure"
            >{{ m.before ? at(m.before.start_frames) : '' }} {{ m.before && m.after ? '→' : '' }}
            {{ m.after ? at(m.after.start_frames) : '' }}</span
          >
          <span class="figure by">{{ m.by }}</span>
        </button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.moved {
  flex: 1;
  min-height: 0;
  padding: 12px 16px;
  overflow-y: auto;
  font-size: 13px;
  line-height: 1.5;
}
p {
  margin: 0;
}
h3 {
  margin: 10px 0 4px;
  font-size: 14px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.placing {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 8px;
}
.placing p {
  flex: 1 0 100%;
}
.goto {
  display: grid;
  grid-template-columns: 104px 130px auto 1fr;
  gap: 8px;
  width: 100%;
  padding: 2px 0;
  text-align: left;
  color: inherit;
  background: none;
  border: 0;
}
.change {
  color: rgb(var(--v-theme-primary));
}
</style>
