import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, shallowRef, type EffectScope } from 'vue'
import type { MadeProgramme } from '@/api/client'
import type { PlayerEvents } from './player'
import { usePlayer } from './usePlayer'

const made = vi.hoisted(() => ({ players: [] as unknown[] }))
vi.mock('./player', () => ({
  Player: class {
    isPlaying = false
    nowS = 0
    play = vi.fn(async (fromS: number) => {
      this.isPlaying = true
      this.nowS = fromS
    })
    stop = vi.fn(() => void (this.isPlaying = false))
    seek = vi.fn((s: number) => void (this.nowS = s))
    load = vi.fn()
    setLoop = vi.fn()
    setLevel = vi.fn()
    dispose = vi.fn()
    constructor(readonly events: PlayerEvents) {
      made.players.push(this)
    }
  },
}))
interface Fake {
  isPlaying: boolean
  nowS: number
  events: PlayerEvents
  play: ReturnType<typeof vi.fn>
  load: ReturnType<typeof vi.fn>
  setLoop: ReturnType<typeof vi.fn>
  setLevel: ReturnType<typeof vi.fn>
  dispose: ReturnType<typeof vi.fn>
}

describe('the player as state', () => {
  let scope: EffectScope
  const programme = shallowRef<MadeProgramme | null>(null)
  const set = () => {
    const player = scope.run(() => usePlayer(programme))!
    return { player, fake: made.players.at(-1) as Fake }
  }
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['requestAnimationFrame', 'cancelAnimationFrame'] })
    localStorage.clear()
    scope = effectScope()
    programme.value = null
  })
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
  })

  it('follows what plays once a frame, until it ends by itself', () => {
    const { player, fake } = set()
    player.toggle()
    expect(player.isPlaying.value).toBe(true)
    fake.nowS = 1.5
    vi.advanceTimersByTime(17)
    expect(player.nowS.value).toBe(1.5)
    fake.isPlaying = false
    fake.nowS = 0
    fake.events.ended()
    expect([player.isPlaying.value, player.nowS.value]).toEqual([false, 0])
    fake.nowS = 9
    vi.advanceTimersByTime(100)
    expect(player.nowS.value).toBe(0)
  })

  it('starts at the beginning of its loop, unless it is inside, or a stretch was asked for', async () => {
    const { player, fake } = set()
    const loop = { fromS: 4, toS: 6 }
    player.loop.value = loop
    await nextTick()
    expect(fake.setLoop).toHaveBeenLastCalledWith(loop)
    await player.play(1)
    await player.play(5)
    await player.play(6)
    await player.play(1, 3)
    expect(fake.play.mock.calls).toEqual([
      [4, undefined],
      [5, undefined],
      [4, undefined],
      [1, 3],
    ])
  })

  it('says what failed until something is played again', async () => {
    const { player, fake } = set()
    fake.events.failed(new Error('The sound could not be fetched.'))
    expect(player.failure.value).toBe('The sound could not be fetched.')
    await player.play()
    expect(player.failure.value).toBe('')
  })

  it('remembers how far the loudspeaker is turned down, and lets go with the page', async () => {
    const { player, fake } = set()
    player.monitorDb.value = -20
    await nextTick()
    expect(fake.setLevel).toHaveBeenLastCalledWith('master', 0.1)
    player.hear('own', false)
    expect(fake.setLevel).toHaveBeenLastCalledWith('own', 0)
    scope.stop()
    expect(fake.dispose).toHaveBeenCalled()
    scope = effectScope()
    expect(set().player.monitorDb.value).toBe(-20)
  })

  it('plays what comes soon after it was asked to, and not what comes much later', async () => {
    const { player, fake } = set()
    player.toggle()
    fake.isPlaying = false
    programme.value = { of: 'cue 1', revision: 'a' } as MadeProgramme
    await nextTick()
    expect(fake.play).toHaveBeenCalledTimes(2)
    programme.value = null
    await nextTick()
    const now = performance.now()
    player.toggle()
    vi.spyOn(performance, 'now').mockReturnValue(now + 60_000)
    programme.value = { of: 'cue 2', revision: 'b' } as MadeProgramme
    await nextTick()
    expect(fake.play).toHaveBeenCalledTimes(2)
    vi.restoreAllMocks()
  })

  it('loads what is to be played whenever that changes', async () => {
    const { fake } = set()
    const made = { of: 'cue 1', revision: 'a' } as MadeProgramme
    programme.value = made
    await nextTick()
    expect(fake.load.mock.calls).toEqual([[null], [made]])
  })
})
