import { describe, expect, it } from 'vitest'
import { LevelGain } from './automation'
import { stepsOf, type Levelled } from './gains'

const RATE = 1000
const NO_FADE = { n_samples: 0, shape: 'linear' as const }
const plain: Levelled = {
  at_samples: 0,
  n_samples: 1000,
  gain: { points: [] },
  fade_in: NO_FADE,
  fade_out: NO_FADE,
}
const curve = (...points: [number, number][]) => ({
  points: points.map(([at_samples, gain_db]) => ({ at_samples, gain_db })),
})

/** What a mixdown multiplies a sample of something by, said as its docstrings say it. */
function expected(of: Levelled, place: number): number {
  const { points } = of.gain
  const [before] = points.filter((p) => p.at_samples <= place).slice(-1)
  const after = points.find((p) => p.at_samples > place)
  let db = (before ?? after)?.gain_db ?? 0
  if (before && after)
    db +=
      ((after.gain_db - before.gain_db) * (place - before.at_samples)) /
      (after.at_samples - before.at_samples)
  const shaped = (x: number, shape: string) => (shape === 'cosine' ? 0.5 - 0.5 * Math.cos(Math.PI * x) : x)
  const [n, out] = [of.fade_in.n_samples, of.fade_out.n_samples]
  const rising = place < n ? shaped(place / n, of.fade_in.shape) : 1
  const left = of.n_samples - 1 - place
  const falling = out > 1 && left < out - 1 ? shaped(left / (out - 1), of.fade_out.shape) : 1
  return (db <= -120 ? 0 : 10 ** (db / 20)) * rising * falling
}

interface Event {
  by: 'set' | 'linear' | 'exponential'
  gain: number
  atS: number
}

/** An audio parameter as the Web Audio standard has it: events in order of time, the value between them by their kind. */
class FakeParam {
  events: Event[] = []
  private put(by: Event['by'], gain: number, atS: number): void {
    const behind = this.events.findIndex((e) => e.atS > atS)
    this.events.splice(behind < 0 ? this.events.length : behind, 0, { by, gain, atS })
  }
  setValueAtTime = (gain: number, atS: number) => this.put('set', gain, atS)
  linearRampToValueAtTime = (gain: number, atS: number) => this.put('linear', gain, atS)
  exponentialRampToValueAtTime = (gain: number, atS: number) => this.put('exponential', gain, atS)
  cancelScheduledValues = (atS: number) => (this.events = this.events.filter((e) => e.atS < atS))
  at(atS: number): number {
    const next = this.events.findIndex((e) => e.atS > atS + 1e-9)
    const [a, b] = next < 0 ? [this.events.at(-1), undefined] : [this.events[next - 1], this.events[next]]
    if (!a || !b || b.by === 'set') return a?.gain ?? 1
    const part = (atS - a.atS) / (b.atS - a.atS)
    if (b.by === 'linear') return a.gain + part * (b.gain - a.gain)
    expect(a.gain * b.gain).toBeGreaterThan(0) // the standard has no line in dB from nothing, or to it
    return a.gain * (b.gain / a.gain) ** part
  }
}

function laidOut(of: Levelled, nowS = -1) {
  const param = new FakeParam()
  const context = {
    sampleRate: RATE,
    currentTime: nowS,
    createGain: () => ({ gain: param }),
  } as unknown as BaseAudioContext
  return { param, level: new LevelGain(context, of, (sample) => sample / RATE) }
}

const CASES: [string, Levelled][] = [
  ['nothing set', plain],
  ['a level', { ...plain, gain: curve([0, -12]) }],
  ['a muted clip', { ...plain, gain: curve([0, -120]) }],
  ['a dip', { ...plain, gain: curve([200, 0], [230, -18], [600, -18], [800, 0]) }],
  [
    'a curve from nothing and back to it',
    { ...plain, gain: curve([0, -120], [300, 6], [301, -120], [700, -120]) },
  ],
  [
    'fades over a curve',
    {
      ...plain,
      at_samples: 77,
      gain: curve([100, 0], [400, -20], [900, 3]),
      fade_in: { n_samples: 300, shape: 'cosine' },
      fade_out: { n_samples: 450, shape: 'linear' },
    },
  ],
  [
    'fades longer than their clip',
    {
      ...plain,
      n_samples: 90,
      fade_in: { n_samples: 120, shape: 'linear' },
      fade_out: { n_samples: 100, shape: 'cosine' },
    },
  ],
]

describe.each(CASES)('gains of %s', (_, of) => {
  const end = of.at_samples + of.n_samples

  it.each([
    [0, end],
    [333, 555],
  ])('are those of a mixdown from %d to %d', (from, until) => {
    const { param, level } = laidOut(of)
    level.lay({ from, until, at: 0 })
    for (let sample = Math.max(from, of.at_samples); sample < Math.min(until, end); sample++)
      expect(param.at((sample - from) / RATE)).toBeCloseTo(expected(of, sample - of.at_samples), 3)
  })

  it('are those of a mixdown from now on where a part of them is past already', () => {
    const { param, level } = laidOut(of, 0.2)
    level.lay({ from: 0, until: end, at: 0 })
    for (let sample = Math.max(204, of.at_samples); sample < end; sample++)
      expect(param.at(sample / RATE)).toBeCloseTo(expected(of, sample - of.at_samples), 3)
    expect(Math.min(...param.events.map((e) => e.atS))).toBeGreaterThan(0.2)
  })

  it('are gone over to, and come from, without a jump', () => {
    const { param, level } = laidOut({ ...plain, at_samples: of.at_samples, n_samples: of.n_samples })
    level.lay({ from: 0, until: 400, at: 0 })
    level.lay({ from: 0, until: 400, at: 400 })
    level.change(of, 0.05)
    expect(param.at(0.05)).toBeCloseTo(1, 6)
    for (let sample = 58; sample < 400; sample++)
      if (sample >= of.at_samples && sample < end)
        expect(param.at(sample / RATE)).toBeCloseTo(expected(of, sample - of.at_samples), 3)
    const was = param.at(0.45)
    level.change(plain, 0.45)
    expect(param.at(0.45)).toBeCloseTo(was, 6)
    expect(param.at(0.46)).toBeCloseTo(1, 6)
    expect(param.at(0.7)).toBeCloseTo(1, 6)
  })
})

describe('steps of a gain', () => {
  it('are none where a stretch holds nothing of it', () => {
    expect(stepsOf({ ...plain, at_samples: 500 }, 0, 500)).toEqual([])
    expect(stepsOf(plain, 1000, 2000)).toEqual([])
  })
})
