import { useKeys } from '@/keys/useKeys'
import { useCueDesk, usePictureDesk, useSession, useTransport } from '@/desks/workbench'
import { watch } from 'vue'
import { slotMoved, type SlotSide } from './slots'
import type { Chosen } from './useChosen'
import type { FrameSteps } from './useFrameSteps'

/** In and out, and what is made between them: cues and lines; and a loop that plays there. */
export function useSpans(chosen: Chosen, { now, goTo }: FrameSteps) {
  const session = useSession()
  const { picture, spotting, slots, inOut } = usePictureDesk()
  const { cues } = useCueDesk()
  const { player } = useTransport()
  const { sheet, shots } = spotting
  watch(
    () => picture.value?.id,
    () => (player.loop.value = null),
  )

  /** A cue over all of the picture; else from in to out, or over the shot that shows. */
  async function addCue(isWhole: boolean): Promise<void> {
    const frame = now()
    await spotting.settled()
    const p = picture.value
    if (!p) return
    const shot = shots.value?.find((s) => s.start_frames <= frame && frame < s.end_frames)
    const here: [number, number] | null = shot ? [shot.start_frames, shot.end_frames] : null
    const span = isWhole ? ([0, p.length_frames] as const) : (inOut.frames.value ?? here)
    if (!span) {
      session.message.value =
        'Mark in and out with I and O first, or press Shift C for a cue over the whole picture.'
      return
    }
    const made = await slots.add(span[0], span[1])
    if (!made) return
    inOut.clear()
    chosen.cue(made.id)
  }

  async function addLine(): Promise<void> {
    const span = inOut.frames.value
    if (!span)
      return void (session.message.value = 'Mark where somebody speaks with I and O first, then press D.')
    const before = new Set(sheet.value?.lines.map((x) => x.id))
    const made = await spotting.edit({
      edit: 'add_line',
      start_frames: span[0],
      end_frames: span[1],
      text: '',
    })
    if (!made) return
    inOut.clear()
    chosen.line(made.lines.find((x) => !before.has(x.id))!.id)
  }

  function changeCue(id: number, side: SlotSide, byFrames: number): void {
    const cue = cues.value.find((c) => c.id === id)
    const rate = picture.value?.rate
    const moved = cue && rate && slotMoved(cue, side, byFrames, rate)
    if (moved) void slots.change(id, moved)
  }

  function toggleLoop(): void {
    if (player.loop.value) return void (player.loop.value = null)
    if (!inOut.span.value)
      return void (session.message.value = 'Mark in and out with I and O first; Y then plays between them.')
    player.loop.value = inOut.span.value
  }

  const lastFrame = () => (inOut.outFrames.value ?? picture.value?.length_frames ?? 1) - 1
  const setIn = () => inOut.setIn(now())
  const setOut = () => inOut.setOut(now() + 1)

  useKeys(() => [
    {
      key: 'i',
      shift: false,
      keys: 'I, O',
      words: 'Mark in, mark out; with Shift go there',
      run: setIn,
    },
    { key: 'o', shift: false, run: setOut },
    { key: 'i', shift: true, run: () => goTo(inOut.inFrames.value ?? 0) },
    { key: 'o', shift: true, run: () => goTo(lastFrame()) },
    { key: 'p', keys: 'P', words: 'Drop the marks of in and out', run: () => inOut.clear() },
    { key: 'y', keys: 'Y', words: 'Play from in to out again and again', run: toggleLoop },
    {
      key: 'c',
      shift: false,
      keys: 'C',
      words: 'A cue from in to out, or of this shot; with Shift of all',
      run: () => void addCue(false),
    },
    { key: 'c', shift: true, run: () => void addCue(true) },
    { key: 'd', keys: 'D', words: 'A dialogue line from in to out', run: () => void addLine() },
  ])
  return { addCue, addLine, changeCue, setIn, setOut }
}
