import { useKeys } from '@/keys/useKeys'
import { usePictureDesk } from '@/desks/workbench'
import type { FrameSteps } from './useFrameSteps'

/** Shot changes: cut and joined by hand, and those that were found taken or left. */
export function useCuts({ now }: FrameSteps) {
  const { spotting } = usePictureDesk()
  const cutAt = (edit: 'cut' | 'join') => void spotting.edit({ edit, at_frames: now() })

  useKeys(() => [
    {
      key: 'x',
      shift: false,
      keys: 'X',
      words: 'Cut the shot here; with Shift join it to the one before',
      run: () => cutAt('cut'),
    },
    { key: 'x', shift: true, run: () => cutAt('join') },
  ])
  return {
    /** Those at some frames, or all. */
    accept: (frames: number[] | null) => void spotting.edit({ edit: 'accept_cuts', frames }),
    drop: (frames: number[] | null) => void spotting.edit({ edit: 'drop_cuts', frames }),
  }
}
