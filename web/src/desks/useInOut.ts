import type { Picture } from '@/api/client'
import { framesToSeconds } from '@/time'
import { computed, ref, watch, type Ref } from 'vue'
import type { Span } from '@/transport/course'

/** In and out on the picture, as marked while it plays or when parked; an out before the in starts anew, and the other way round. */
export function useInOut(picture: Ref<Picture | undefined>) {
  const inFrames = ref<number | null>(null)
  const outFrames = ref<number | null>(null)
  watch(
    () => picture.value?.id,
    () => clear(),
  )

  function clear(): void {
    inFrames.value = outFrames.value = null
  }
  function setIn(frames: number): void {
    inFrames.value = frames
    if (outFrames.value !== null && outFrames.value <= frames) outFrames.value = null
  }
  function setOut(frames: number): void {
    outFrames.value = frames
    if (inFrames.value !== null && inFrames.value >= frames) inFrames.value = null
  }

  /** Both ends; without an in from the first frame on, without an out to the last. Nothing while neither is set. */
  const frames = computed<[number, number] | null>(() => {
    if (!picture.value || (inFrames.value === null && outFrames.value === null)) return null
    const [from, to] = [inFrames.value ?? 0, outFrames.value ?? picture.value.length_frames]
    return to > from ? [from, to] : null
  })
  const span = computed<Span | null>(() => {
    const rate = picture.value?.rate
    return frames.value && rate
      ? { fromS: framesToSeconds(frames.value[0], rate), toS: framesToSeconds(frames.value[1], rate) }
      : null
  })
  return { inFrames, outFrames, frames, span, setIn, setOut, clear }
}
