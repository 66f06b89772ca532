/** What every step shares: the production, the fit of its cue, and the player. Set up once, by the shell. */
import { computed, inject, nextTick, ref, watch, type InjectionKey } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import type { Track } from './api/client'
import { chartQuery, cueFitQuery, peaksQuery } from './api/queries'
import { useCorrections } from './composables/useCorrections'
import { useLengthTrial } from './composables/useLengthTrial'
import { usePlayer } from './composables/usePlayer'
import { useSession } from './composables/useSession'
import { useUploads } from './composables/useUploads'
import type { Playable } from './sound/player'
import { flicksToSeconds } from './time'

export function setUpWorkbench() {
  const session = useSession()
  const { cue, track } = session
  /** What Space plays: the fit of the cue, or the track itself while its chart is being put right. */
  const heard = ref<'fit' | 'track'>('fit')
  const click = ref(false)
  /** A track played from the list, before it is chosen for anything. */
  const previewed = ref<Track | null>(null)
  const trackId = computed(() => (track.value?.state === 'ready' ? track.value.id : null))
  const fitQuery = useQuery(
    computed(() => ({
      ...cueFitQuery(
        cue.value?.id ?? 0,
        cue.value?.slot_length_flicks ?? 0,
        trackId.value,
        track.value?.chart_id ?? '',
      ),
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

  const trackPlayable = computed<Playable | null>(() => {
    const t = previewed.value ?? track.value
    if (t?.state !== 'ready' || !t.rate_hz || !t.channels || !t.n_samples) return null
    const url = `/api/tracks/${t.id}/sound`
    const clicks = click.value && heard.value === 'track' && !previewed.value
    return {
      url: clicks ? `${url}?click=true&chart=${t.chart_id}` : url,
      of: `track ${t.id}`,
      rate: t.rate_hz,
      channels: t.channels,
      lengthSamples: t.n_samples,
    }
  })
  const playable = computed<Playable | null>(() => {
    if (heard.value === 'track' || previewed.value) return trackPlayable.value
    const plan = fit.value?.plan
    if (!plan || !fit.value?.fit_id || !track.value?.channels) return null
    return {
      url: `/api/fits/${fit.value.fit_id}/sound`,
      of: `cue ${cue.value?.id}`,
      rate: plan.rate,
      channels: track.value.channels,
      lengthSamples: plan.target_samples,
    }
  })
  const player = usePlayer(playable)
  watch([() => cue.value?.track_id, heard], () => (previewed.value = null))

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
    isFitting: fitQuery.isFetching,
    chart: chart.data,
    peaks: peaks.data,
    slotS,
    heard,
    click,
    playable,
    correct: useCorrections(trackId, session.message),
    player,
    previewed,
    preview,
    length: useLengthTrial(() => cue.value?.id),
    uploads: useUploads(() => session.productionId.value),
  }
}

export type Workbench = ReturnType<typeof setUpWorkbench>
export const workbenchKey: InjectionKey<Workbench> = Symbol('workbench')

export function useWorkbench(): Workbench {
  const found = inject(workbenchKey)
  if (!found) throw new Error('the workbench is set up by the shell')
  return found
}
