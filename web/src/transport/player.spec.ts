import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { MadeProgramme } from '@/api/client'
import { Player } from './player'

const RATE = 1000
const level = {
  gain: { points: [] as { at_samples: number; gain_db: number }[] },
  fade_in: { n_samples: 0, shape: 'linear' as const },
  fade_out: { n_samples: 0, shape: 'linear' as const },
}
const clip = { sound: 'fit 7', at_samples: 0, n_samples: 7500, start_samples: 0, bus: 'music', ...level }

let revisions = 0
/** A programme of clips whose sounds have the address of their names. */
function made(of: string, n_samples: number, clips: (typeof clip)[]): MadeProgramme {
  const buses = ['music', 'own'].map((name) => ({ name, ...level }))
  const sounds = clips.map(({ sound }) => ({
    name: sound,
    kind: 'fit' as const,
    url: `/${sound.replace(' ', '/')}`,
    rate: RATE,
    channels: 1,
    cue_id: 1,
  }))
  const programme = { rate: RATE, channels: 1, n_samples, clips, buses }
  return { of, revision: String(++revisions), programme, sounds, unfitted: [] }
}
const fit = made('cue 1', 7500, [clip])

/** A clock and a list of what was put on it. */
class FakeContext {
  currentTime = 0
  sampleRate = RATE
  state = 'running'
  outputLatency = 0
  placed: { at: number; length: number; first: number }[] = []
  destination = {}
  ramped = vi.fn()
  createGain = () => ({
    connect: () => undefined,
    gain: {
      setValueAtTime: vi.fn(),
      linearRampToValueAtTime: this.ramped,
      exponentialRampToValueAtTime: vi.fn(),
      setTargetAtTime: vi.fn(),
      cancelScheduledValues: vi.fn(),
    },
  })
  createBuffer = (_channels: number, length: number) => ({
    length,
    first: 0,
    copyToChannel(data: Float32Array) {
      this.first = data[0]!
    },
  })
  close = () => Promise.resolve()
  suspend = () => Promise.resolve()
}

describe('the player', () => {
  let context: FakeContext
  let asked: [number, number][]
  let afterDraft: boolean[]
  let draftsUntil: number

  beforeEach(() => {
    vi.useFakeTimers()
    context = new FakeContext()
    asked = []
    afterDraft = []
    draftsUntil = 0
    vi.stubGlobal(
      'AudioBufferSourceNode',
      class {
        constructor(
          private on: FakeContext,
          private options: { buffer: { length: number; first: number } },
        ) {}
        connect() {}
        stop() {}
        start(at: number) {
          this.on.placed.push({ at, length: this.options.buffer.length, first: this.options.buffer.first })
        }
      },
    )
    vi.stubGlobal('fetch', (url: string) => {
      const query = new URL(url, 'http://x').searchParams
      const [start, stop] = [Number(query.get('start')), Number(query.get('stop'))]
      asked.push([start, stop])
      afterDraft.push(query.get('after_draft') === 'true')
      const headers = new Headers(stop <= draftsUntil ? { 'Sound-Is-Draft': 'yes' } : {})
      const samples = Float32Array.from({ length: stop - start }, (_, i) => start + i)
      return Promise.resolve({ ok: true, headers, arrayBuffer: () => Promise.resolve(samples.buffer) })
    })
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  function player(): Player {
    return new Player(
      {
        ended: () => undefined,
        failed: (error) => {
          throw error
        },
      },
      () => context as unknown as AudioContext,
    )
  }

  async function run(seconds: number): Promise<void> {
    for (let i = 0; i < seconds * 10; i++) {
      await vi.advanceTimersByTimeAsync(100)
      context.currentTime += 0.1
    }
  }

  it('says when it goes over from a draft to the print, and asks for a draft again later', async () => {
    draftsUntil = 4000
    const p = player()
    p.load(fit)
    void p.play()
    await run(8)
    expect(asked.map(([start]) => start)).toEqual([0, 2000, 4000, 6000])
    expect(afterDraft).toEqual([false, true, true, false])
    draftsUntil = 0
    void p.play(0)
    await run(8)
    expect(asked.slice(4).map(([start]) => start)).toEqual([0, 2000, 4000])
    expect(afterDraft.slice(4)).toEqual([false, false, false])
  })

  it('fetches ahead where it stands, and places chunks end to end', async () => {
    const p = player()
    p.load(fit)
    expect(asked).toEqual([[0, 2000]])
    void p.play(0.5)
    await run(9)
    expect(context.placed.map((c) => c.first)).toEqual([500, 2000, 4000, 6000])
    expect(context.placed.reduce((sum, c) => sum + c.length, 0)).toBe(7000)
    for (let i = 1; i < context.placed.length; i++) {
      const [a, b] = [context.placed[i - 1]!, context.placed[i]!]
      expect(b.at).toBeCloseTo(a.at + a.length / RATE, 9)
    }
  })

  it('plays a span and no more', async () => {
    const p = player()
    p.load(fit)
    void p.play(1.5, 2.5)
    await run(2)
    expect(context.placed.reduce((sum, c) => sum + c.length, 0)).toBe(1000)
  })

  /** What sounds at every sample of the context's clock, as numbered by `fetch` above; -1 where nothing does. */
  function heard(until: number): number[] {
    const samples = new Array<number>(until).fill(-1)
    for (const { at, length, first } of context.placed)
      for (let i = 0; i < length; i++) samples[Math.round(at * RATE) + i] = first + i
    return samples
  }

  it('plays a loop ten times without a sample too many or too few', async () => {
    const p = player()
    p.load(fit)
    p.setLoop({ fromS: 1.5, toS: 3.5 })
    void p.play(1.5)
    await run(21)
    const start = Math.round(context.placed[0]!.at * RATE)
    const expected = Array.from({ length: 20_000 }, (_, i) => 1500 + (i % 2000))
    expect(heard(30_000).slice(start, start + 20_000)).toEqual(expected)
    expect(p.nowS).toBeGreaterThanOrEqual(1.5)
    expect(p.nowS).toBeLessThan(3.5)
  })

  it('goes on from a loop that is dropped, and to the end', async () => {
    const p = player()
    p.load(fit)
    p.setLoop({ fromS: 1, toS: 2 })
    void p.play(1)
    await run(2.5)
    p.setLoop(null)
    await run(6.5)
    expect([p.nowS, p.isPlaying]).toEqual([7.5, false])
  })

  it('goes over to another form of the same thing on the sample where it is', async () => {
    const p = player()
    p.load(fit)
    void p.play(1)
    await run(1)
    const before = context.placed.length
    p.load(made('cue 1', 7500, [{ ...clip, sound: 'fit 9' }]))
    expect(p.isPlaying).toBe(true)
    await run(1)
    const [old, taken] = [context.placed[0]!, context.placed[before]!]
    expect(taken.first / RATE - taken.at).toBeCloseTo(old.first / RATE - old.at, 9)
    expect(p.nowS).toBeGreaterThan(2.8)
    await run(6)
    expect([p.nowS, p.isPlaying]).toEqual([7.5, false])
  })

  it('fetches nothing twice of what stays', async () => {
    const p = player()
    const other = { ...clip, sound: 'recording 1', bus: 'own' }
    p.load(made('picture 1', 7500, [clip, other]))
    void p.play(0)
    await run(1)
    asked = []
    p.load(made('picture 1', 7500, [{ ...clip, sound: 'fit 9' }, other]))
    await run(0.5)
    expect(asked.filter(([start]) => start === 0)).toHaveLength(1)
  })

  it('goes over to other levels without playing anything anew, within 100 ms', async () => {
    const p = player()
    p.load(fit)
    void p.play(1)
    await run(1)
    const placed = context.placed.length
    context.ramped.mockClear()
    p.load(made('cue 1', 7500, [{ ...clip, gain: { points: [{ at_samples: 0, gain_db: -20 }] } }]))
    expect(context.ramped.mock.calls.map(([gain]) => gain)).toContain(0.1)
    const when = context.ramped.mock.calls.map(([, at]) => at as number)
    expect(Math.max(...when)).toBeLessThan(context.currentTime + 0.1)
    await run(0.5)
    expect(context.placed).toHaveLength(placed)
    await run(6)
    expect([p.nowS, p.isPlaying]).toEqual([7.5, false])
  })

  it('asks for a clip from the sample on at which it begins, at the rate of the programme', async () => {
    const urls: string[] = []
    const fetched = globalThis.fetch
    vi.stubGlobal('fetch', (url: string) => (urls.push(url), fetched(url)))
    const p = player()
    p.load(made('cue 2', 3000, [{ ...clip, n_samples: 1000, start_samples: 321 }]))
    expect(urls).toEqual([`/fit/7?from_samples=321&start=0&stop=1000&rate=${RATE}`])
  })

  it('stays where it was stopped and starts at the beginning from the end', async () => {
    const p = player()
    p.load(fit)
    void p.play(1)
    await run(1)
    p.stop()
    expect(p.isPlaying).toBe(false)
    expect(p.nowS).toBeGreaterThan(1.7)
    p.seek(7.5)
    void p.play()
    await run(0.2)
    expect(context.placed.filter((c) => c.first === 0)).toHaveLength(1)
  })

  it('is where it starts from until its sound has come', async () => {
    const p = player()
    p.load(fit)
    void p.play(0)
    await run(1)
    p.stop()
    context.currentTime += 3
    void p.play(5)
    expect(p.nowS).toBe(5)
    await run(0.5)
    expect(p.nowS).toBeGreaterThan(5)
  })

  it('lays several sounds at their places on one clock', async () => {
    const p = player()
    const late = { ...clip, sound: 'fit 8', n_samples: 1500, at_samples: 4250 }
    p.load(made('picture 1', 9000, [clip, late]))
    void p.play(3)
    await run(7)
    const [first, second] = [
      context.placed.find((c) => c.length === 1000 && c.first === 3000)!,
      context.placed.find((c) => c.length === 1500)!,
    ]
    expect(second.at - first.at).toBeCloseTo(1.25, 9)
    expect(p.isPlaying).toBe(false)
    expect(p.nowS).toBe(9)
  })

  it('is a clock where nothing sounds', async () => {
    const ended = vi.fn()
    const failed = vi.fn()
    const p = new Player({ ended, failed }, () => context as unknown as AudioContext)
    p.load(made('picture 2', 2000, []))
    void p.play(0.5)
    await run(1)
    expect(p.nowS).toBeGreaterThan(1.3)
    await run(1.5)
    expect([p.nowS, p.isPlaying]).toEqual([2, false])
    expect(ended).toHaveBeenCalledTimes(1)
  })

  it('glides without asking for sound and scrubs with a moment of it', async () => {
    const p = player()
    p.load(fit)
    asked = []
    afterDraft = []
    draftsUntil = 0
    p.glide(5)
    expect([p.nowS, asked.length]).toEqual([5, 0])
    p.scrub(5.5)
    await run(0.2)
    expect(asked).toEqual([[4000, 6000]])
    expect(context.placed).toEqual([{ at: expect.any(Number), length: 90, first: 5500 }])
    expect(p.nowS).toBe(5.5)
  })

  it('says what went wrong and stops', async () => {
    vi.stubGlobal('fetch', () =>
      Promise.resolve({
        ok: false,
        status: 409,
        json: () => Promise.resolve({ code: 'x', detail: 'Not now.' }),
      }),
    )
    const failed = vi.fn()
    const p = new Player({ ended: vi.fn(), failed }, () => context as unknown as AudioContext)
    p.load(fit)
    await p.play()
    expect(failed.mock.calls[0]![0].message).toBe('Not now.')
    expect(p.isPlaying).toBe(false)
  })
})
