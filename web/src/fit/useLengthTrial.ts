import { answer, api, type CueFit } from '@/api/client'
import { shallowReadonly, shallowRef } from 'vue'

/**
 * The fit at lengths that are only tried, for dragging: one request at a time, and always the latest length next, so
 * that the answer follows the hand however fast it moves.
 */
export function useLengthTrial(cueId: () => number | undefined) {
  const trial = shallowRef<{ flicks: number; fit: CueFit | null } | null>(null)
  let wanted: number | null = null
  let isAsking = false

  function tryLength(flicks: number): void {
    wanted = flicks
    trial.value = { flicks, fit: trial.value?.fit ?? null }
    if (!isAsking) void ask()
  }

  async function ask(): Promise<void> {
    isAsking = true
    while (wanted !== null && cueId() !== undefined) {
      const flicks: number = wanted
      wanted = null
      try {
        const call = api.POST('/api/cues/{cue_id}/try', {
          params: { path: { cue_id: cueId()! } },
          body: { slot_length_flicks: flicks },
        })
        const fit = await answer(call)
        if (trial.value) trial.value = { flicks: trial.value.flicks, fit }
      } catch {
        // A trial that fails shows nothing new; setting the length will say why.
      }
    }
    isAsking = false
  }

  function end(): void {
    wanted = null
    trial.value = null
  }

  return { trial: shallowReadonly(trial), tryLength, end }
}
