import { mapClicks, pulseBeats } from '@/drawing/bars'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { onPage } from '@/api/server.mock'
import { useClick } from './useClick'

const beats = pulseBeats({ bpm: 120, meter: 4, startsS: 0.1 }, 3600) // beats at 0.1, 0.6, 1.1 ...
let struck: { atS: number; hz: number }[] = []
let soundS = 0
let open = 0
let latencyS = 0

class Sound {
  destination = {}
  outputLatency = latencyS
  constructor() {
    open++
  }
  get currentTime() {
    return soundS
  }
  resume = () => Promise.resolve()
  close = () => Promise.resolve(open--)
  createGain = () => ({
    gain: { setValueAtTime: vi.fn(), exponentialRampToValueAtTime: vi.fn() },
    connect: (to: unknown) => to,
  })
  createOscillator = () => {
    const tone = { frequency: { value: 0 }, connect: (to: unknown) => to, stop: vi.fn() }
    return { ...tone, start: (atS: number) => struck.push({ atS, hz: tone.frequency.value }) }
  }
}

/** A picture that plays from a moment on, while the sound card's clock runs beside it. */
function playing(isOn = true) {
  const clock = { nowS: 0, isPlaying: ref(false), clockS: () => clock.nowS }
  const on = ref(isOn)
  const page = onPage(() => {
    const clicks = (fromS: number, toS: number) => mapClicks(beats, fromS, toS)
    useClick(ref(clicks), on, clock)
    return {}
  })
  async function run(seconds: number) {
    for (let k = 0; k < seconds / 0.05; k++) {
      clock.nowS += 0.05
      soundS += 0.05
      await vi.advanceTimersByTimeAsync(50)
    }
  }
  return { clock, on, run, leave: page.leave }
}

describe('a click while the picture plays', () => {
  beforeEach(() => {
    struck = []
    soundS = open = 0
    vi.useFakeTimers()
    vi.stubGlobal('AudioContext', Sound)
  })
  afterEach(() => vi.useRealTimers())

  it('strikes every beat once, where the sound card is when the picture is there', async () => {
    const { clock, run } = playing()
    soundS = 7
    clock.isPlaying.value = true
    await nextTick()
    await run(2)
    expect(struck.map((s) => Number((s.atS - 7).toFixed(6)))).toEqual([0.1, 0.6, 1.1, 1.6, 2.1])
    expect(struck.map((s) => s.hz > 1500)).toEqual([true, false, false, false, true])
  })

  it('strikes so much sooner as the way to the loudspeakers takes', async () => {
    latencyS = 0.04
    const { clock, run } = playing()
    clock.isPlaying.value = true
    await nextTick()
    await run(1)
    expect(struck.map((s) => Number(s.atS.toFixed(6)))).toEqual([0.06, 0.56, 1.06])
    latencyS = 0
  })

  it('goes on from where the picture was sent, and is silent when it stops or is not wanted', async () => {
    const { clock, on, run, leave } = playing()
    clock.isPlaying.value = true
    await nextTick()
    await run(0.5)
    const before = struck.length
    clock.nowS = 30.05
    await run(0.5)
    expect(struck.slice(before).length).toBe(2) // at 30.1 and, ahead, 30.6
    on.value = false
    await run(2)
    expect(struck.length).toBe(before + 2)
    clock.isPlaying.value = false
    leave()
    expect(open).toBe(0)
  })

  it('opens no sound before it is wanted', async () => {
    const { clock, run } = playing(false)
    clock.isPlaying.value = true
    await run(1)
    expect([open, struck.length]).toEqual([0, 0])
  })
})
