import { answer, api, type CueAsks, type CueFit, type Schemas } from '@/api/client'
import { shallowReadonly, shallowRef } from 'vue'

interface Trial {
  /** The length that is tried; null where it is what is asked for that is. */
  flicks: number | null
  asks: CueAsks | null
  fit: CueFit | null
}

/**
 * The fit as it would be, for dragging: at another length, or if something else were asked for. One request at a time, and
 * always the latest next, so that the answer follows the hand however fast it moves.
 */
export function useTrial(cueId: () => number | undefined) {
  const trial = shallowRef<Trial | null>(null)
  let wanted: Schemas['Trial'] | null = null
  let isAsking = false

  function tryIt(flicks: number | null, asks: CueAsks | null): void {
    wanted = { ...(flicks !== null && { slot_length_flicks: flicks }), ...(asks && { asks }) }
    trial.value = { flicks, asks, fit: trial.value?.fit ?? null }
    if (!isAsking) void ask()
  }

  async function ask(): Promise<void> {
    isAsking = true
    while (wanted !== null && cueId() !== undefined) {
      const body: Schemas['Trial'] = wanted
      wanted = null
      try {
        const params = { path: { cue_id: cueId()! } }
        const fit = await answer(api.POST('/api/cues/{cue_id}/try', { params, body }))
        if (trial.value) trial.value = { ...trial.value, fit }
      } catch {
        // A trial that fails shows nothing new; setting it will say why.
      }
    }
    isAsking = false
  }

  function end(): void {
    wanted = null
    trial.value = null
  }

  return {
    trial: shallowReadonly(trial),
    tryLength: (flicks: number) => tryIt(flicks, null),
    tryAsks: (asks: CueAsks) => tryIt(null, asks),
    end,
  }
}
