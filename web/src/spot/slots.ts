/** Slots that are dragged. */
import type { Cue } from '@/api/client'
import { flicksToSeconds, nearestFrame, type Rate } from '@/time'

export type SlotSide = 'start' | 'end' | 'both'

/**
 * What is asked when one side of a slot, or all of it, is dragged by some frames; nothing where nothing would be left of it.
 * Counted from where it is: several steps, and those of others, add up.
 */
export function slotMoved(
  cue: Cue,
  side: SlotSide,
  byFrames: number,
  rate: Rate,
): { start?: string; end?: string } | null {
  const by = side === 'end' ? byFrames : Math.max(byFrames, -cue.slot_start_frames)
  const longer = side === 'both' ? 0 : side === 'end' ? by : -by
  if (!byFrames || nearestFrame(flicksToSeconds(cue.slot_length_flicks), rate) + longer <= 0) return null
  const moved = `${by < 0 ? '-' : '+'}${Math.abs(by)}f`
  return { both: { start: moved }, start: { start: moved, end: '+0f' }, end: { end: moved } }[side]
}
