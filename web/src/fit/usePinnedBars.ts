/** Bars of the track that are pinned to hits, or kept off them: part of what the cue asks for. */
import { answer, api, type Asks } from '@/api/client'
import { canBePinned } from '@/words/choices'
import { isKept, type LandedHit } from '@/drawing/hits'
import { useCueDesk, useFitDesk, useSession } from '@/desks/workbench'
import { computed } from 'vue'
import { useAsks } from './useAsks'

export const NEAR_S = 0.05 // a chart that was corrected may have a beat a little beside where it was

export type Bars = NonNullable<Asks['pinned_bars']>

/** `hits`: as they land in the fit that is kept, whatever is tried. */
export function usePinnedBars(hits: () => LandedHit[]) {
  const session = useSession()
  const { asks, ask, given } = useAsks()
  const { cue } = useCueDesk()
  const { chart } = useFitDesk()
  const rate = computed(() => chart.value?.rate ?? 1)
  const pinned = computed<Bars>(() => asks.value.pinned_bars ?? [])
  const forbidden = computed<Bars>(() => asks.value.forbidden_bars ?? [])
  const isAt = (bar: Bars[number], source: number) =>
    Math.abs(bar.source_samples - source) < NEAR_S * rate.value
  const someOf = (bars: Bars) => (bars.length ? bars : undefined)
  const without = (bars: Bars, hit: LandedHit) => bars.filter((b) => b.hit_id !== hit.id)

  /** A bar meets one hit and a hit one bar: pinning it lets go of what either had. */
  function withPin(hit: LandedHit, source: number, beside = pinned.value): Partial<Asks> {
    const others = without(beside, hit).filter((b) => !isAt(b, source))
    return {
      pinned_bars: [...others, { hit_id: hit.id, source_samples: source }],
      forbidden_bars: someOf(forbidden.value.filter((b) => b.hit_id !== hit.id || !isAt(b, source))),
    }
  }

  /**
   * What to ask for so that a bar meets a hit. Where the track is bent the other hits keep the bars that they have, if that
   * can be had; elsewhere the music between them is free.
   */
  async function moved(hit: LandedHit, source: number): Promise<Partial<Asks>> {
    const alone = withPin(hit, source)
    if (asks.value.method !== 'bend') return alone
    const now = hits()
      .filter((h) => canBePinned(h) && h.isKept && h.sourceS !== null)
      .map((h) => ({ hit_id: h.id, source_samples: Math.round(h.sourceS! * rate.value) }))
    const held = withPin(hit, source, now)
    const params = { path: { cue_id: cue.value!.id } }
    const { plan } = await answer(api.POST('/api/cues/{cue_id}/try', { params, body: { asks: given(held) } }))
    const missed = hits().filter((h) => !h.isKept && h.id !== hit.id).length
    return plan && plan.hits.filter((h) => !isKept(h)).length <= missed ? held : alone
  }

  return {
    pinned,
    isPinned: (hit: LandedHit) => pinned.value.some((b) => b.hit_id === hit.id),
    keptOff: (hit: LandedHit) => forbidden.value.filter((b) => b.hit_id === hit.id).length,
    asksToMove: async (hit: LandedHit, source: number) => given(await moved(hit, source)),
    move: (hit: LandedHit, source: number) => session.attempt(async () => ask(await moved(hit, source))),
    pin: (hit: LandedHit, source: number) => ask(withPin(hit, source)),
    letGo: (hit: LandedHit) => ask({ pinned_bars: someOf(without(pinned.value, hit)) }),
    letAllGo: () => ask({ pinned_bars: undefined, forbidden_bars: undefined }),
    keepOff: (hit: LandedHit, source: number) =>
      ask({
        pinned_bars: someOf(without(pinned.value, hit)),
        forbidden_bars: [...forbidden.value, { hit_id: hit.id, source_samples: source }],
      }),
    allow: (hit: LandedHit) => ask({ forbidden_bars: someOf(without(forbidden.value, hit)) }),
  }
}
