/** What is asked of the fit of the cue beside its length. */
import type { CueAsks, Seam } from '@/api/client'
import { isAt, placesOf } from '@/words/seams'
import { useSession, useCueDesk, useFitDesk } from '@/desks/workbench'
import { computed } from 'vue'

/** Hits are those that lie in the slot; nobody asks for them here. */
const NOT_ASKED_HERE = ['hits']

export function useAsks() {
  const session = useSession()
  const cueDesk = useCueDesk()
  const fitDesk = useFitDesk()
  const asks = computed(() => (cueDesk.cue.value?.asks ?? {}) as CueAsks)

  /** All that is asked for, other in some respects; what is undefined there is left to the planner again. */
  function given(change: Partial<CueAsks>, of = asks.value): CueAsks {
    const all = Object.entries({ ...of, ...change })
    return Object.fromEntries(
      all.filter(([name, value]) => value !== undefined && value !== null && !NOT_ASKED_HERE.includes(name)),
    ) as CueAsks
  }

  async function ask(change: Partial<CueAsks>): Promise<void> {
    const refusal = await cueDesk.updateCue((now) => ({ asks: given(change, (now.asks ?? {}) as CueAsks) }))
    if (refusal) session.message.value = refusal
  }

  /** Have a fit without a seam. */
  const forbid = (seam: Seam) =>
    ask({
      forbidden_seams: [...(asks.value.forbidden_seams ?? []), placesOf(seam)],
      kept_seams: asks.value.kept_seams?.filter((p) => !isAt(seam, p, fitDesk.chart.value?.rate ?? 1)),
    })

  /** Have a seam in every fit that has room for it, or no more. */
  function keep(seam: Seam): Promise<void> {
    const kept = asks.value.kept_seams ?? []
    const others = kept.filter((places) => !isAt(seam, places, fitDesk.chart.value?.rate ?? 1))
    const all = others.length < kept.length ? others : [...kept, placesOf(seam)]
    return ask({ kept_seams: all.length ? all : undefined })
  }
  return { asks, given, ask, forbid, keep }
}
