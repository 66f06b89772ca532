import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref, shallowRef, type EffectScope } from 'vue'
import { useFilm } from './useFilm'

const FPS = 25

/** A film that shows what it is told to, a frame at a time. */
class FakeVideo extends EventTarget {
  readyState = 4
  duration = 60
  playbackRate = 1
  isPaused = true
  seeks: number[] = []
  callback: ((now: number, shown: object) => void) | null = null
  private at = 0
  get currentTime() {
    return this.at
  }
  set currentTime(to: number) {
    this.at = to
    this.seeks.push(to)
  }
  play() {
    this.isPaused = false
    return Promise.resolve()
  }
  pause() {
    this.isPaused = true
  }
  requestVideoFrameCallback(callback: (now: number, shown: object) => void) {
    this.callback = callback
    return 1
  }
  cancelVideoFrameCallback() {
    this.callback = null
  }
  /** A frame that is about to be seen. */
  show(frame: number) {
    this.callback!(0, { expectedDisplayTime: performance.now(), mediaTime: frame / FPS })
  }
  seeked() {
    this.dispatchEvent(new Event('seeked'))
  }
}

describe('the film', () => {
  let scope: EffectScope
  let video: FakeVideo
  let nowS: number
  const isPlaying = ref(false)
  const pictureS = ref<number | null>(0)
  let away: { value: number }

  beforeEach(async () => {
    vi.useFakeTimers({ toFake: ['requestAnimationFrame', 'cancelAnimationFrame', 'setTimeout'] })
    scope = effectScope()
    video = new FakeVideo()
    nowS = 0
    isPlaying.value = false
    pictureS.value = 0
    const element = shallowRef<HTMLVideoElement | null>(null)
    const rate = ref({ num: FPS, den: 1, drop_frame: false })
    away = scope.run(() =>
      useFilm(element, { isPlaying, clockS: () => nowS }, pictureS, ref(0), rate),
    )!.awayFrames
    element.value = video as unknown as HTMLVideoElement
    await nextTick()
    video.seeked()
    video.seeks = []
  })
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
  })
  async function start() {
    isPlaying.value = true
    await nextTick()
    nowS += 0.02
    await vi.advanceTimersByTimeAsync(50)
  }

  it('shows the middle of the frame that is asked for, and of many wishes the last', async () => {
    for (const s of [1, 2, 3]) {
      pictureS.value = s
      await nextTick()
    }
    expect(video.seeks).toEqual([1.02])
    video.seeked()
    expect(video.seeks).toEqual([1.02, 3.02])
  })
  it('starts when the clock runs, and is led back by its speed', async () => {
    await start()
    expect(video.isPaused).toBe(false)
    nowS = 1
    video.show(20) // five frames late
    expect(away.value).toBeCloseTo(4.5, 1)
    expect(video.playbackRate).toBeGreaterThan(1.05)
    nowS = 1.02
    video.show(25)
    expect(video.playbackRate).toBe(1)
    nowS = 1
    video.show(29)
    expect(video.playbackRate).toBeLessThan(1)
  })
  it('jumps where it is far off, and parks on the frame when playing ends', async () => {
    await start()
    nowS = 10
    video.show(0)
    expect(video.seeks.at(-1)).toBeCloseTo(10.08, 5)
    pictureS.value = 10
    isPlaying.value = false
    await nextTick()
    expect(video.isPaused).toBe(true)
    expect(video.seeks.at(-1)).toBeCloseTo(10.02, 5)
  })
})
