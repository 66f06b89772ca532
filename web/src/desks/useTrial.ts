import { answer, api, type Asks, type CueFit, type Schemas } from '@/api/client'
import { useLatest } from '@/asking/useLatest'
import { shallowReadonly, shallowRef } from 'vue'

interface Trial {
  /** The length that is tried; null where it is what is asked for that is. */
  flicks: number | null
  asks: Asks | null
  fit: CueFit | null
}

/** The fit as it would be, for dragging: at another length, or if something else were asked for. */
export function useTrial(cueId: () => number | undefined) {
  const trial = shallowRef<Trial | null>(null)
  // A trial that fails shows nothing new; setting it will say why.
  const latest = useLatest(ask, (fit) => {
    if (trial.value) trial.value = { ...trial.value, fit }
  })

  function tryIt(flicks: number | null, asks: Asks | null): void {
    trial.value = { flicks, asks, fit: trial.value?.fit ?? null }
    if (cueId() === undefined) return
    latest.want({ ...(flicks !== null && { slot_length_flicks: flicks }), ...(asks && { asks }) })
  }
  function ask(body: Schemas['Trial']): Promise<CueFit> {
    return answer(api.POST('/api/cues/{cue_id}/try', { params: { path: { cue_id: cueId()! } }, body }))
  }
  function end(): void {
    latest.end()
    trial.value = null
  }

  return {
    trial: shallowReadonly(trial),
    tryLength: (flicks: number) => tryIt(flicks, null),
    tryAsks: (asks: Asks) => tryIt(null, asks),
    end,
  }
}
