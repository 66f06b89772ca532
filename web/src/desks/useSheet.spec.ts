import type { Picture } from '@/api/client'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, ref, type EffectScope } from 'vue'
import { useDrag } from '@/lanes/useDrag'
import { useInOut } from './useInOut'
import { useShuttle } from '@/transport/useShuttle'
import { kindOf } from './useUploads'

const picture = ref({
  id: 1,
  rate: { num: 25, den: 1, drop_frame: false },
  length_frames: 1800,
} as Picture)

describe('in and out', () => {
  it('are a span as soon as one of them is set, and never run backwards', () => {
    const marked = useInOut(picture)
    expect(marked.frames.value).toBeNull()
    marked.setIn(100)
    expect(marked.frames.value).toEqual([100, 1800])
    marked.setOut(150)
    expect(marked.span.value).toEqual({ fromS: 4, toS: 6 })
    marked.setIn(200)
    expect(marked.frames.value).toEqual([200, 1800])
    marked.setOut(50)
    expect(marked.frames.value).toEqual([0, 50])
    marked.clear()
    expect(marked.frames.value).toBeNull()
  })
})

describe('the shuttle', () => {
  let scope: EffectScope
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['requestAnimationFrame', 'cancelAnimationFrame', 'performance'] })
    scope = effectScope()
  })
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
  })
  function set() {
    const nowS = ref(10)
    const isPlaying = ref(false)
    const player = {
      nowS,
      isPlaying,
      play: vi.fn(async () => void (isPlaying.value = true)),
      stop: vi.fn(() => void (isPlaying.value = false)),
      glide: (s: number) => void (nowS.value = Math.min(Math.max(0, s), 20)),
    }
    return { player, shuttle: scope.run(() => useShuttle(player, () => 20))! }
  }
  it('plays at normal speed, runs faster with each press, and turns through a standstill', () => {
    const { player, shuttle } = set()
    shuttle.push(false)
    expect(player.play).toHaveBeenCalledTimes(1)
    shuttle.push(false)
    expect([shuttle.speed.value, player.isPlaying.value]).toEqual([2, false])
    vi.advanceTimersByTime(1000)
    expect(player.nowS.value).toBeGreaterThan(11.8)
    shuttle.push(true)
    expect(shuttle.speed.value).toBe(0)
    shuttle.push(true)
    shuttle.push(true)
    shuttle.push(true)
    expect(shuttle.speed.value).toBe(-4)
    vi.advanceTimersByTime(4000)
    expect([player.nowS.value, shuttle.speed.value]).toEqual([0, 0])
  })
  it('lets go when somebody presses play', () => {
    const { player, shuttle } = set()
    shuttle.push(true)
    player.isPlaying.value = true
    vi.advanceTimersByTime(100)
    expect([shuttle.speed.value, player.isPlaying.value]).toEqual([0, true])
  })
})

describe('a drag', () => {
  it('says where it went once it is let go, and nothing of a mere press', () => {
    const done = vi.fn()
    const drag = useDrag(done)
    const at = (clientX: number) =>
      ({ button: 0, clientX, pointerId: 1, currentTarget: { setPointerCapture: () => undefined } }) as never
    drag.begin(at(10))
    drag.follow(at(11))
    drag.end()
    expect(done).not.toHaveBeenCalled()
    drag.begin(at(10))
    drag.follow(at(42))
    expect(drag.shiftPx.value).toBe(32)
    drag.end()
    expect(done).toHaveBeenCalledWith(32)
  })
})

describe('what a file is taken for', () => {
  it.each([
    ['Reel 1.MOV', 'film'],
    ['cut v3.edl', 'marks'],
    ['lines.srt', 'marks'],
    ['Song.flac', 'track'],
    ['no ending', 'track'],
  ])('%s: %s', (name, kind) => expect(kindOf(name)).toBe(kind))
})
