import type { Rate } from '@/time'
import { useEventListener } from '@vueuse/core'
import { onScopeDispose, ref, watch, type Ref } from 'vue'

interface Clock {
  readonly isPlaying: { readonly value: boolean }
  clockS(): number
}

const JUMP_S = 0.25 // further off than this the film is moved, nearer it is led back by its speed
const PULL = 1.6
const MOST_PULL = 0.12
const CLOSE_FRAMES = 0.2

/**
 * Keeps a silent film on the frame of the clock. While it plays, each frame that is shown is compared with the clock at the
 * moment it is shown, and the film runs a little faster or slower until both agree. Parked, it shows exactly the frame.
 */
export function useFilm(
  video: Ref<HTMLVideoElement | null>,
  clock: Clock,
  pictureS: Ref<number | null>,
  offsetS: Ref<number>,
  rate: Ref<Rate | undefined>,
) {
  /** How far the frame on screen lies behind the clock, in frames; below zero before it. */
  const awayFrames = ref(0)
  let callback = 0
  let waiting = 0
  let isSeeking = false
  let wanted: number | null = null

  const fps = () => (rate.value ? rate.value.num / rate.value.den : 25)
  /** The middle of the frame that shows at a time: the start of a frame may show the one before. */
  const middleOf = (seconds: number) => (Math.floor(seconds * fps() + 1e-6) + 0.5) / fps()

  /** Show the frame of a time; while one is on its way only the latest wish is kept. */
  function show(seconds: number): void {
    const element = video.value
    if (!element || element.readyState < 1) {
      wanted = seconds
      return
    }
    const to = Math.min(middleOf(seconds), Math.max(0, element.duration - 0.001))
    if (isSeeking) {
      wanted = seconds
      return
    }
    if (Math.abs(element.currentTime - to) < 1e-4) return
    isSeeking = true
    element.currentTime = to
  }

  function settled(): void {
    isSeeking = false
    const next = wanted
    wanted = null
    if (next !== null) show(next)
  }

  function follow(_now: number, shown: VideoFrameCallbackMetadata): void {
    const element = video.value
    if (!element || !clock.isPlaying.value) return
    callback = element.requestVideoFrameCallback(follow)
    const ahead = Math.max(0, shown.expectedDisplayTime - performance.now()) / 1000
    const due = clock.clockS() + offsetS.value + ahead
    const away = due - (shown.mediaTime + 0.5 / fps())
    awayFrames.value = away * fps()
    if (isSeeking) return
    if (Math.abs(away) > JUMP_S) {
      isSeeking = true
      element.currentTime = Math.max(0, due + 0.08) // what the jump itself takes
    } else if (Math.abs(away) * fps() < CLOSE_FRAMES) element.playbackRate = 1
    else element.playbackRate = 1 + Math.min(MOST_PULL, Math.max(-MOST_PULL, away * PULL))
  }

  /** The clock stands still until its sound has come; the film starts with it. */
  function start(fromS = clock.clockS()): void {
    cancelAnimationFrame(waiting)
    if (!clock.isPlaying.value) return
    if (clock.clockS() <= fromS) waiting = requestAnimationFrame(() => start(fromS))
    else run()
  }

  function run(): void {
    const element = video.value
    if (!element) return
    element.playbackRate = 1
    const due = clock.clockS() + offsetS.value
    if (Math.abs(element.currentTime - due) > 1 / fps()) element.currentTime = due
    void element.play().catch(() => undefined)
    element.cancelVideoFrameCallback(callback)
    callback = element.requestVideoFrameCallback(follow)
  }

  function park(): void {
    video.value?.pause()
    isSeeking = false
    if (pictureS.value !== null) show(pictureS.value)
  }

  watch(
    [clock.isPlaying, video, offsetS],
    ([isPlaying]) => (isPlaying && pictureS.value !== null ? start() : park()),
    {
      flush: 'post',
    },
  )
  watch(pictureS, (seconds, before) => {
    if (seconds === null) return void video.value?.pause()
    if (clock.isPlaying.value && before === null) start()
    else if (!clock.isPlaying.value) show(seconds)
  })
  watch(
    video,
    () => {
      isSeeking = false
      wanted = null
    },
    { immediate: true, flush: 'post' },
  )
  useEventListener(video, 'seeked', settled)
  useEventListener(video, 'loadeddata', () => (clock.isPlaying.value ? start() : park()))
  onScopeDispose(() => {
    cancelAnimationFrame(waiting)
    video.value?.cancelVideoFrameCallback?.(callback)
  })
  return { awayFrames }
}
