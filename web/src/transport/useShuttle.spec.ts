import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, ref, type EffectScope } from 'vue'
import { useShuttle } from './useShuttle'

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
