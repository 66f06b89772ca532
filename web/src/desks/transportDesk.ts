import type { Track } from '@/api/client'
import { cueFitQuery } from '@/api/queries'
import { framesToSeconds } from '@/time'
import type { Programme } from '@/transport/programme'
import { usePlayer } from '@/transport/usePlayer'
import { useShuttle } from '@/transport/useShuttle'
import { useQueries } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import type { CueDesk } from './cueDesk'
import type { FitDesk } from './fitDesk'
import { atOneRate, fitPart, trackPart } from './parts'
import type { PictureDesk } from './pictureDesk'
import type { Session } from './session'

/** What plays, and where it is. */
export function setUpTransport(
  { tracks }: Session,
  { picture }: PictureDesk,
  { cue, cues, track }: CueDesk,
  { heard }: FitDesk,
) {
  /** What Space plays: the fit of the cue, the track itself while its chart is put right, or the picture with its cues. */
  const listeningTo = ref<'fit' | 'track' | 'picture'>('fit')
  /** Whether the picture's own sound is heard with it. */
  const isOwnSoundOn = ref(true)
  const click = ref(false)
  /** A track played from the list, before it is chosen for anything. */
  const previewed = ref<Track | null>(null)

  const trackProgramme = computed<Programme | null>(() => {
    const t = previewed.value ?? track.value
    const clicks = click.value && listeningTo.value === 'track' && !previewed.value
    const part = t && trackPart(t, 'music')
    if (!part) return null
    if (clicks) part.url = `${part.url}?click=true&chart=${t.chart_id}`
    return { of: `track ${t.id}`, lengthS: part.lengthSamples / part.rate, parts: [part] }
  })
  /** The fits of all cues on the picture, for playing them where they belong. */
  const cueFits = useQueries({
    queries: computed(() =>
      cues.value.map((c) => {
        const t = tracks.value?.find((x) => x.id === c.track_id && x.state === 'ready')
        return {
          ...cueFitQuery(c, t?.id ?? null, t?.chart_id ?? ''),
          enabled: t !== undefined && listeningTo.value === 'picture',
        }
      }),
    ),
  })
  const pictureProgramme = computed<Programme | null>(() => {
    const p = picture.value
    if (!p) return null
    const own = tracks.value?.find((t) => t.id === p.sound_track_id)
    const parts = cues.value.map((c, i) => {
      const t = tracks.value?.find((x) => x.id === c.track_id)
      return t && fitPart(cueFits.value[i]?.data, t, framesToSeconds(c.slot_start_frames, p.rate))
    })
    const all = [...parts, own ? trackPart(own, 'own') : null].filter((x) => !!x)
    return {
      of: `picture ${p.id}`,
      lengthS: framesToSeconds(p.length_frames, p.rate),
      parts: atOneRate(all),
    }
  })
  const programme = computed<Programme | null>(() => {
    if (previewed.value || listeningTo.value === 'track') return trackProgramme.value
    if (listeningTo.value === 'picture') return pictureProgramme.value
    const part = track.value && fitPart(heard.value, track.value, 0)
    return part
      ? { of: `cue ${cue.value?.id}`, lengthS: part.lengthSamples / part.rate, parts: [part] }
      : null
  })
  const player = usePlayer(programme)
  watch(isOwnSoundOn, (isOn) => player.hear('own', isOn))
  /** How far the clock of what is played lies before the picture's. */
  const offsetS = computed(() => {
    if (listeningTo.value !== 'fit' || !picture.value || !cue.value) return 0
    return framesToSeconds(cue.value.slot_start_frames, picture.value.rate)
  })
  /** Where on the picture we are; nothing while a track is played by itself. */
  const pictureS = computed(() =>
    previewed.value || listeningTo.value === 'track' ? null : player.nowS.value + offsetS.value,
  )
  watch([() => cue.value?.track_id, listeningTo], () => (previewed.value = null))

  const shuttle = useShuttle(player, () => programme.value?.lengthS ?? 0)

  /** Play a track from the list, or stop it. */
  function preview(wanted: Track): void {
    const isOn = previewed.value?.id === wanted.id && player.isPlaying.value
    previewed.value = isOn ? null : wanted
    if (!isOn) void nextTick(() => player.play(0))
  }
  return {
    listeningTo,
    click,
    programme,
    offsetS,
    pictureS,
    isOwnSoundOn,
    shuttle,
    player,
    previewed,
    preview,
  }
}
