/** What is asked of the fit of the cue beside its length. */
import { askAgain } from '@/api/again'
import { answer, api, type Asks, type SeamSaid, type SeamSays } from '@/api/client'
import { queryClient, seamsQuery } from '@/api/queries'
import { useSession, useCueDesk } from '@/desks/workbench'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

/** Hits are those that lie in the slot; nobody asks for them here. */
const NOT_ASKED_HERE = ['hits']

export function useAsks() {
  const session = useSession()
  const cueDesk = useCueDesk()
  const asks = computed(() => (cueDesk.cue.value?.asks ?? {}) as Asks)

  /** All that is asked for, other in some respects; what is undefined there is left to the planner again. */
  function given(change: Partial<Asks>, of = asks.value): Asks {
    const all = Object.entries({ ...of, ...change })
    return Object.fromEntries(
      all.filter(([name, value]) => value !== undefined && value !== null && !NOT_ASKED_HERE.includes(name)),
    ) as Asks
  }

  async function ask(change: Partial<Asks>): Promise<void> {
    const refusal = await cueDesk.updateCue((now) => ({ asks: given(change, (now.asks ?? {}) as Asks) }))
    if (refusal) session.message.value = refusal
  }
  return { asks, given, ask }
}

type Name = Pick<SeamSaid, 'leaves_samples' | 'enters_samples'>
const nameOf = ({ leaves_samples, enters_samples }: Name): Name => ({ leaves_samples, enters_samples })

/** What is said of the seams of the cue and its track, and which of them its fits are to have or to leave out. */
export function useSeamWishes() {
  const session = useSession()
  const { cue, track } = useCueDesk()
  const said = useQuery(
    computed(() => ({
      ...seamsQuery(cue.value, track.value?.id ?? null),
      enabled: cue.value !== undefined && track.value?.state === 'ready',
    })),
  )
  const wished = (wish: string) =>
    computed(() => (said.data.value ?? []).filter((seam) => seam.wish === wish))
  const [kept, forbidden] = [wished('kept'), wished('forbidden')]

  async function say(seams: SeamSays[]): Promise<void> {
    const path = { params: { path: { cue_id: cue.value!.id } } }
    const done = await session.attempt(async () => {
      const all = await answer(api.PUT('/api/cues/{cue_id}/seams', { ...path, body: { seams } }))
      queryClient.setQueryData(seamsQuery(cue.value, track.value?.id ?? null).queryKey, all)
    })
    if (done) await askAgain('production', 'fit')
  }
  const wish = (seams: readonly Name[], wanted: SeamSays['wish']) =>
    say(seams.map((seam) => ({ ...nameOf(seam), wish: wanted }) as SeamSays))
  return {
    kept,
    forbidden,
    /** Have a fit without a seam. */
    forbid: (seam: SeamSaid) => wish([seam], 'forbidden'),
    /** Have a seam in every fit that has room for it, or no more. */
    keep: (seam: SeamSaid) => wish([seam], seam.wish === 'kept' ? null : 'kept'),
    letGo: (seams: readonly SeamSaid[]) => wish(seams, null),
  }
}
