/** What every step shares: the production, the fit of its cue, and the player. Set up once, by the shell. */
import { computed, inject, nextTick, ref, watch, type InjectionKey } from 'vue'
import { useQueries, useQuery } from '@tanstack/vue-query'
import type { CueFit, Track } from '@/api/client'
import { chartQuery, cueFitQuery, peaksQuery } from '@/api/queries'
import { useCorrections } from '@/gather/useCorrections'
import { useLengthTrial } from '@/fit/useLengthTrial'
import { useInOut } from '@/spot/useInOut'
import { usePlayer } from '@/transport/usePlayer'
import { useSession } from './useSession'
import { useShuttle } from '@/transport/useShuttle'
import { useSheet } from '@/spot/useSheet'
import { useUploads } from './useUploads'
import type { Bus, Part, Programme } from '@/transport/programme'
import { flicksToSeconds, framesToSeconds } from '@/time'

export function setUpWorkbench() {
  const session = useSession()
  const { cue, cues, picture, track, tracks } = session
  /** What Space plays: the fit of the cue, the track itself while its chart is put right, or the picture with its cues. */
  const listeningTo = ref<'fit' | 'track' | 'picture'>('fit')
  /** Whether the picture's own sound is heard with it. */
  const isOwnSoundOn = ref(true)
  const click = ref(false)
  /** A track played from the list, before it is chosen for anything. */
  const previewed = ref<Track | null>(null)
  const trackId = computed(() => (track.value?.state === 'ready' ? track.value.id : null))
  const fitQuery = useQuery(
    computed(() => ({
      ...cueFitQuery(cue.value, trackId.value, track.value?.chart_id ?? ''),
      enabled: cue.value !== undefined && trackId.value !== null,
    })),
  )
  const chart = useQuery(
    computed(() => ({
      ...chartQuery(trackId.value ?? 0, track.value?.chart_id ?? ''),
      enabled: trackId.value !== null,
    })),
  )
  const peaks = useQuery(
    computed(() => ({ ...peaksQuery(trackId.value ?? 0), enabled: trackId.value !== null })),
  )
  const fit = computed(() => (trackId.value === null ? undefined : fitQuery.data.value))
  const slotS = computed(() => flicksToSeconds(cue.value?.slot_length_flicks ?? 0))

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
    const part = track.value && fitPart(fit.value, track.value, 0)
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
  const spotting = useSheet(
    computed(() => picture.value?.id),
    session.productionId,
    session.message,
    (id) => (session.pictureId.value = id),
  )

  /** Play a track from the list, or stop it. */
  function preview(wanted: Track): void {
    const isOn = previewed.value?.id === wanted.id && player.isPlaying.value
    previewed.value = isOn ? null : wanted
    if (!isOn) void nextTick(() => player.play(0))
  }
  return {
    ...session,
    fit,
    fitFailure: fitQuery.error,
    /** Whether what is shown is the fit that was before: the one that was asked for is on its way. */
    isFitting: fitQuery.isPlaceholderData,
    chart: chart.data,
    peaks: peaks.data,
    slotS,
    listeningTo,
    click,
    programme,
    offsetS,
    pictureS,
    isOwnSoundOn,
    cueFits,
    spotting,
    shuttle,
    inOut: useInOut(picture),
    correct: useCorrections(trackId, session.message),
    player,
    previewed,
    preview,
    length: useLengthTrial(() => cue.value?.id),
    uploads: useUploads(() => session.productionId.value, {
      film: (id) => (session.pictureId.value = id),
      marks: spotting.importMarks,
    }),
  }
}

/** All parts at the rate of the first one: the server brings the others to it, whole, and the browser none. */
function atOneRate(parts: Part[]): Part[] {
  const rate = parts[0]?.rate ?? 0
  return parts.map((p) => ({ ...p, rate, lengthSamples: Math.ceil((p.lengthSamples * rate) / p.rate) }))
}

/** A track from its beginning, if its sound is there. */
function trackPart(t: Track, bus: Bus): Part | null {
  if (t.state !== 'ready' || !t.rate_hz || !t.channels || !t.n_samples) return null
  const { rate_hz: rate, channels, n_samples: lengthSamples } = t
  return { url: `/api/tracks/${t.id}/sound`, rate, channels, lengthSamples, atS: 0, bus }
}

/** A kept fit of a track, if there is one. */
function fitPart(fit: CueFit | undefined, t: Track, atS: number): Part | null {
  if (!fit?.plan || !fit.fit_id || !t.channels) return null
  const { rate, target_samples: lengthSamples } = fit.plan
  return {
    url: `/api/fits/${fit.fit_id}/sound`,
    rate,
    channels: t.channels,
    lengthSamples,
    atS,
    bus: 'music',
  }
}

export type Workbench = ReturnType<typeof setUpWorkbench>
export const workbenchKey: InjectionKey<Workbench> = Symbol('workbench')

export function useWorkbench(): Workbench {
  const found = inject(workbenchKey)
  if (!found) throw new Error('the workbench is set up by the shell')
  return found
}
