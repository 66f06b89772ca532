<script setup lang="ts">
import { useFilm } from '@/transport/useFilm'
import { useKeys } from '@/keys/useKeys'
import LevelMeter from '@/transport/LevelMeter.vue'
import { formatClock, formatTimecode, timeLeft } from '@/time'
import type { SheetRead } from '@/api/client'
import { useSession, usePictureDesk, useTransport } from '@/desks/workbench'
import {
  mdiPause,
  mdiPlay,
  mdiRepeat,
  mdiSkipBackward,
  mdiSkipForward,
  mdiVolumeHigh,
  mdiVolumeOff,
} from '@mdi/js'
import { computed, ref } from 'vue'
import PictureMenu from './PictureMenu.vue'
import PositionField from './PositionField.vue'
import PositionText from './PositionText.vue'
import { usePosition } from './usePosition'

type Line = SheetRead['lines'][number]
const props = defineProps<{ isWide: boolean }>()
const session = useSession()
const pictureDesk = usePictureDesk()
const { picture, spotting } = pictureDesk
const transport = useTransport()
const { player, programme, pictureS, offsetS, shuttle, lengthS: endS } = transport
const { played, frame } = usePosition()
const video = ref<HTMLVideoElement | null>(null)
const hasWindow = ref(false)
const rate = computed(() => picture.value?.rate)
useFilm(video, player, pictureS, offsetS, rate)

const about = computed(() => {
  const p = picture.value
  if (played.value) return `in ${played.value.title}, ${formatClock(endS.value, 1)}`
  if (!p) return ''
  const fps = (p.rate.num / p.rate.den).toFixed(p.rate.den === 1 ? 0 : 3)
  const length = formatTimecode(p.length_frames, p.rate)
  return props.isWide ? `of ${length} · ${fps} fps` : `${length} at ${fps} frames a second`
})
const job = computed(() => picture.value?.job)
const working = computed(() => {
  const j = job.value
  if (!j) return ''
  if (j.state === 'failed') return j.error ?? 'The film could not be looked through.'
  if (j.state === 'cancelled') return 'Looking through the film was stopped.'
  if (j.state === 'waiting')
    return (
      j.stage ||
      (j.kind === 'dialogue' ? 'Waiting to listen for dialogue' : 'The film waits to be looked through')
    )
  return [j.stage, `${Math.round(100 * j.progress)} %`, timeLeft(j.elapsed_s, j.progress)]
    .filter(Boolean)
    .join(' · ')
})
const shotHere = computed(() =>
  props.isWide && !picture.value?.film
    ? spotting.shots.value?.find((s) => s.start_frames <= frame.value && frame.value < s.end_frames)
    : undefined,
)
/** What is said just now; the same list as long as it is the same lines. */
const spoken = computed<readonly Line[]>((before) => {
  const now = !props.isWide
    ? []
    : (spotting.sheet.value?.lines ?? []).filter(
        (x) => x.text && x.start_frames <= frame.value && frame.value < x.end_frames,
      )
  return before && now.length === before.length && now.every((x, i) => x === before[i]) ? before : now
})
const speedWords = computed(() =>
  shuttle.speed.value > 0 ? `${shuttle.speed.value}×` : `−${-shuttle.speed.value}×`,
)
const isRunning = computed(() => player.isPlaying.value || shuttle.speed.value !== 0)

function toggle(): void {
  if (shuttle.speed.value !== 0 && !player.isPlaying.value) shuttle.stop()
  else player.toggle()
}

useKeys(() =>
  props.isWide
    ? [
        {
          key: 'w',
          keys: 'W',
          words: 'Timecode window in the picture',
          run: () => (hasWindow.value = !hasWindow.value),
        },
      ]
    : [],
)
</script>

<template>
  <section class="panel" :class="{ wide: isWide }" aria-label="Picture">
    <PictureMenu />
    <div v-if="picture?.film || isWide" class="screen">
      <video
        v-if="picture?.film?.url"
        ref="video"
        :key="picture.film.url"
        :src="picture.film.url"
        muted
        playsinline
        preload="auto"
        aria-label="Film"
        @click="toggle"
      />
      <div v-else class="stand">
        <template v-if="shotHere">
          <div class="shot">{{ shotHere.name || shotHere.reel }}</div>
          <div class="quiet">no film; the edit list shows this shot here</div>
        </template>
        <div v-else-if="picture?.film" class="quiet">This film gets a copy that plays here.</div>
        <div v-else class="quiet">
          {{
            picture
              ? 'No film: this picture is a length. Drop a film here to see it.'
              : 'No picture yet. Drop a film here.'
          }}
        </div>
      </div>
      <div v-if="spoken.length" class="spoken">
        <span v-for="x in spoken" :key="x.id">{{ x.text }}</span>
      </div>
      <div v-if="hasWindow && isWide" class="window figure"><PositionText /></div>
    </div>
    <div v-if="working" class="working" :role="job?.state === 'failed' ? 'alert' : 'status'">
      <span class="one-line">{{ working }}</span>
      <v-btn
        v-if="job && (job.state === 'waiting' || job.state === 'running')"
        size="x-small"
        variant="text"
        @click="session.cancelJob(job.id)"
        >Stop</v-btn
      >
      <v-btn
        v-else-if="picture"
        size="x-small"
        variant="text"
        @click="pictureDesk.change.scanAgain(picture.id)"
        >Look again</v-btn
      >
    </div>
    <div class="foot">
      <PositionField :is-wide="isWide" />
      <div class="transport">
        <v-btn
          :icon="mdiSkipBackward"
          size="small"
          title="To the start (Home)"
          aria-label="To the start"
          @click="player.seek(0)"
        />
        <v-btn
          :icon="isRunning ? mdiPause : mdiPlay"
          color="primary"
          variant="flat"
          :disabled="!programme"
          :title="isRunning ? 'Pause (Space)' : 'Play (Space)'"
          :aria-label="isRunning ? 'Pause' : 'Play'"
          @click="toggle"
        />
        <v-btn
          :icon="mdiSkipForward"
          size="small"
          title="To the end (End)"
          aria-label="To the end"
          @click="player.seek(endS)"
        />
        <template v-if="isWide">
          <v-btn
            :icon="mdiRepeat"
            size="small"
            :color="player.loop.value ? 'primary' : undefined"
            :aria-pressed="!!player.loop.value"
            title="Play from in to out again and again (Y)"
            aria-label="Loop"
            @click="player.loop.value = player.loop.value ? null : pictureDesk.inOut.span.value"
          />
          <v-btn
            :icon="transport.isOwnSoundOn.value ? mdiVolumeHigh : mdiVolumeOff"
            size="small"
            :disabled="!picture?.sound_track_id"
            :title="
              picture?.sound_track_id
                ? 'The picture\'s own sound, on or off'
                : 'This picture has no sound of its own'
            "
            aria-label="Own sound"
            :aria-pressed="transport.isOwnSoundOn.value"
            @click="transport.isOwnSoundOn.value = !transport.isOwnSoundOn.value"
          />
          <span v-if="shuttle.speed.value !== 0" class="speed figure" role="status">{{ speedWords }}</span>
          <span v-else class="quiet about figure one-line">{{ about }}</span>
        </template>
        <div v-if="isWide && player.failure.value" class="failure" role="alert">
          {{ player.failure.value }}
        </div>
      </div>
    </div>
    <template v-if="!isWide">
      <div v-if="player.failure.value" class="failure" role="alert">{{ player.failure.value }}</div>
      <div v-else class="quiet about figure one-line">{{ about }}</div>
    </template>
    <LevelMeter
      v-model:monitor-db="player.monitorDb.value"
      class="levels"
      :levels="player.levels"
      :is-playing="player.isPlaying.value"
    />
  </section>
</template>

<style scoped>
.panel {
  padding: 6px 14px 8px;
  background: rgb(var(--v-theme-surface));
  border-bottom: 1px solid rgba(var(--v-theme-on-surface), 0.1);
  flex: none;
}
.screen {
  position: relative;
  margin: 4px -14px 4px;
  background: #000;
  aspect-ratio: 16 / 9;
}
video {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.stand {
  display: grid;
  place-content: center;
  height: 100%;
  padding: 20px;
  text-align: center;
  color: #e8dfcf;
}
.shot {
  font-size: 26px;
}
.spoken {
  position: absolute;
  left: 8%;
  right: 8%;
  bottom: 5%;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  pointer-events: none;
  text-align: center;
}
.spoken span {
  padding: 1px 10px;
  background: rgba(0, 0, 0, 0.66);
  color: #fff;
  font-size: 16px;
}
.window {
  position: absolute;
  top: 4%;
  left: 50%;
  transform: translateX(-50%);
  padding: 2px 12px;
  background: #000;
  color: #fff;
  font-size: 20px;
  pointer-events: none;
}
.working {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  min-height: 24px;
  font-size: 13px;
}
.foot {
  display: flex;
  align-items: center;
  gap: 8px;
}
.about {
  font-size: 13px;
}
.transport {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
}
.failure {
  font-size: 13px;
  color: rgb(var(--v-theme-error));
}
.levels {
  margin-top: 4px;
}
.speed {
  color: rgb(var(--v-theme-primary));
  font-size: 18px;
}
.wide {
  flex: 1;
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding-bottom: 6px;
  border-bottom: 0;
}
.wide .screen {
  flex: 1;
  min-height: 0;
  aspect-ratio: auto;
  margin-bottom: 2px;
}
.wide .foot {
  gap: 16px;
}
.wide .transport {
  flex: 1;
  gap: 8px;
}
</style>
