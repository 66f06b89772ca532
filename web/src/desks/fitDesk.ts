import { chartQuery, cueFitQuery, peaksQuery } from '@/api/queries'
import { useFitBefore } from './useFitBefore'
import { useCorrections } from './useCorrections'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { CueDesk } from './cueDesk'
import type { Session } from './session'

export type FitDesk = ReturnType<typeof setUpFitDesk>

/** The fit of the cue, and the chart and waveform of its track. */
export function setUpFitDesk({ message }: Session, { cue, track }: CueDesk) {
  const trackId = computed(() => (track.value?.state === 'ready' ? track.value.id : null))
  const chartId = computed(() => track.value?.chart_id ?? '')
  const hasTrack = computed(() => trackId.value !== null)
  const fitQuery = useQuery(
    computed(() => ({
      ...cueFitQuery(cue.value, trackId.value, chartId.value),
      enabled: cue.value !== undefined && hasTrack.value,
    })),
  )
  const chart = useQuery(
    computed(() => ({ ...chartQuery(trackId.value ?? 0, chartId.value), enabled: hasTrack.value })),
  )
  const peaks = useQuery(computed(() => ({ ...peaksQuery(trackId.value ?? 0), enabled: hasTrack.value })))
  const fit = computed(() => (hasTrack.value ? fitQuery.data.value : undefined))
  return {
    fit,
    ...useFitBefore(
      computed(() => `${cue.value?.id} ${trackId.value}`),
      fit,
    ),
    fitFailure: fitQuery.error,
    /** Whether what is shown is the fit that was before: the one that was asked for is on its way. */
    isFitting: fitQuery.isPlaceholderData,
    chart: chart.data,
    peaks: peaks.data,
    correct: useCorrections(trackId, message),
  }
}
