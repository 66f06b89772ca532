import { useKeys } from '@/keys/useKeys'
import { usePictureDesk, useTransport } from '@/desks/workbench'
import { framesToSeconds, secondsToFrame } from '@/time'

export type FrameSteps = ReturnType<typeof useFrameSteps>

/** Going along the picture: by frames, by time, and running both ways. */
export function useFrameSteps() {
  const { picture } = usePictureDesk()
  const { player, shuttle } = useTransport()

  /** The frame that shows at this very moment. */
  const now = () =>
    picture.value
      ? Math.min(secondsToFrame(player.clockS(), picture.value.rate), picture.value.length_frames - 1)
      : 0
  function goTo(frames: number): void {
    if (picture.value) player.seek(framesToSeconds(frames, picture.value.rate))
  }
  /** Be at a frame, unless it plays: what plays is not torn away. */
  function showIfParked(frames: number): void {
    if (!player.isPlaying.value) goTo(frames)
  }
  /** By frames from the one that shows; playing stops. */
  function step(frames: number): void {
    if (!picture.value) return
    player.stop()
    shuttle.letGo()
    goTo(Math.min(Math.max(0, now() + frames), picture.value.length_frames - 1))
  }

  useKeys(() => [
    {
      key: 'j',
      keys: 'J, K, L',
      words: 'Run back, stop, run on; pressed again faster',
      run: () => shuttle.push(true),
    },
    { key: 'k', run: () => shuttle.stop() },
    { key: 'l', run: () => shuttle.push(false) },
    {
      key: 'ArrowRight',
      shift: false,
      keys: '← →',
      words: 'One frame back or on; with Shift ten',
      run: () => step(1),
    },
    { key: 'ArrowRight', shift: true, run: () => step(10) },
    { key: 'ArrowLeft', shift: false, run: () => step(-1) },
    { key: 'ArrowLeft', shift: true, run: () => step(-10) },
  ])
  return { now, goTo, showIfParked }
}
