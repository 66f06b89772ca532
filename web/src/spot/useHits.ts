import { useKeys } from '@/keys/useKeys'
import { usePictureDesk, useSession } from '@/desks/workbench'
import { snapped } from '@/drawing/spot'
import { computed, ref } from 'vue'
import type { Chosen } from './useChosen'
import type { FrameSteps } from './useFrameSteps'

/** Hits: marked while the picture plays or parked, moved with the hand and by keys, snapped to shot changes, taken away. */
export function useHits(chosen: Chosen, { now, showIfParked }: FrameSteps, name: (id: number) => void) {
  const session = useSession()
  const { spotting } = usePictureDesk()
  const { sheet, shots } = spotting
  const isSnapping = ref(true)
  const cuts = computed(() =>
    [...(shots.value ?? []).map((s) => s.start_frames).slice(1), ...(sheet.value?.suggested_cuts ?? [])].sort(
      (a, b) => a - b,
    ),
  )

  async function mark(): Promise<void> {
    chosen.tab.value = 'hits' // at once: what is looked at when the answer comes stays
    const before = new Set(sheet.value?.hits.map((h) => h.id))
    const made = await spotting.edit({
      edit: 'add_hit',
      at_frames: now(),
      label: `Hit ${before.size + 1}`,
      kind: 'downbeat',
      weight: 'should',
      tolerance_frames: 0,
    })
    const fresh = made?.hits.find((h) => !before.has(h.id))
    if (fresh) chosen.hitIds.value = new Set([fresh.id])
  }

  /** A hit that is one of several chosen takes them along. */
  async function move(id: number, byFrames: number, snapWithinFrames: number): Promise<void> {
    const hit = sheet.value?.hits.find((h) => h.id === id)
    if (!hit) return
    const ids = chosen.hitIds.value.has(id) ? [...chosen.hitIds.value] : [id]
    const to = hit.at_frames + byFrames
    const by = (isSnapping.value ? snapped(to, cuts.value, snapWithinFrames) : to) - hit.at_frames
    if (!by) return
    await spotting.edit({ edit: 'move_hits', ids, by_frames: by })
    showIfParked(hit.at_frames + by)
  }

  /** Chosen hits by frames, from wherever the keys are. */
  function nudge(byFrames: number): void {
    const [first] = chosen.hitIds.value
    if (first !== undefined) void move(first, byFrames, 0)
  }

  function withChosen(edit: 'remove_hits' | 'snap_hits'): void {
    const ids = [...chosen.hitIds.value]
    if (!ids.length)
      return void (session.message.value = 'Choose one or more hits first, in the lanes or the table.')
    void spotting.edit({ edit, ids })
    if (edit === 'remove_hits') chosen.hitIds.value = new Set()
  }

  /** A hit that is one of several chosen goes with them. */
  function remove(id: number): void {
    if (!chosen.hitIds.value.has(id)) chosen.hitIds.value = new Set([id])
    withChosen('remove_hits')
  }

  function toNext(back: boolean): void {
    const hits = sheet.value?.hits ?? []
    const frame = now()
    const next = back ? hits.filter((h) => h.at_frames < frame).at(-1) : hits.find((h) => h.at_frames > frame)
    if (next) chosen.hit(next.id)
  }

  function nameChosen(): void {
    const [first] = chosen.hitIds.value
    if (first !== undefined) name(first)
  }

  useKeys(() => [
    { key: 'ArrowUp', keys: '↑ ↓', words: 'To the hit before or after', run: () => toNext(true) },
    { key: 'ArrowDown', run: () => toNext(false) },
    { key: 'm', keys: 'M', words: 'Mark a hit, while it plays or parked', run: () => void mark() },
    { key: 'Enter', keys: 'Enter', words: 'Name the chosen hit', run: nameChosen },
    {
      key: ',',
      keys: ', .',
      words: 'Chosen hits a frame earlier or later; with Shift ten',
      run: () => nudge(-1),
    },
    { key: '.', run: () => nudge(1) },
    { key: ';', run: () => nudge(-10) },
    { key: '<', run: () => nudge(-10) },
    { key: '>', run: () => nudge(10) },
    {
      key: 'n',
      keys: 'N',
      words: 'Snap the chosen hits to the nearest shot change',
      run: () => withChosen('snap_hits'),
    },
  ])
  return { isSnapping, mark, move, remove, removeChosen: () => withChosen('remove_hits') }
}
