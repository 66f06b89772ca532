import { describe, expect, it } from 'vitest'
import { Meter, type Levels } from './loudness'

/** What a meter says last of half a second of channels. */
function measured(channels: ((t: number) => number)[], rate = 48_000): Levels {
  const meter = new Meter(rate, channels.length)
  const block = channels.map((wave) => Float32Array.from({ length: rate / 2 }, (_, i) => wave(i / rate)))
  let last: Levels = { lufs: null, truePeakDb: null }
  for (let i = 0; i < rate / 2; i += 128) last = meter.take(block.map((c) => c.subarray(i, i + 128))) ?? last
  return last
}
const sine =
  (hz: number, amplitude = 1, phase = 0) =>
  (t: number) =>
    amplitude * Math.sin(2 * Math.PI * hz * t + phase)
const silence = () => 0

describe('the meter', () => {
  it.each([44_100, 48_000])(
    'reads what the standard says of 997 Hz at full scale in one channel, at %i Hz',
    (rate) => {
      expect(measured([sine(997), silence], rate).lufs).toBeCloseTo(-3.01, 1)
      expect(measured([sine(997), sine(997)], rate).lufs).toBeCloseTo(0, 1)
    },
  )
  it('hears the bass less and the treble more', () => {
    expect(measured([sine(40), silence]).lufs).toBeLessThan(-7)
    expect(measured([sine(6000), silence]).lufs).toBeGreaterThan(-0.2)
  })
  it('finds a peak between the samples', () => {
    const [between, on] = [sine(12_000, 1, Math.PI / 4), sine(12_000)]
    expect(measured([between, silence]).truePeakDb).toBeCloseTo(0, 0)
    expect(measured([on, silence]).truePeakDb).toBeGreaterThan(-0.2)
  })
  it('says nothing of silence', () => {
    expect(measured([silence, silence])).toEqual({ lufs: null, truePeakDb: null })
  })
})
