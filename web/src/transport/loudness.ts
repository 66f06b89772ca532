/**
 * Momentary loudness and true peak of what is played, as ITU-R BS.1770-4 measures them: both channels through the K filter,
 * their mean square over 400 ms; the highest value of the sound at four times its rate.
 */

export interface Levels {
  /** Over the last 400 ms; null for silence. */
  lufs: number | null
  /** Since the last report, dB relative to full scale; null for silence. */
  truePeakDb: number | null
}

const WINDOW_S = 0.4
const REPORTS_PER_WINDOW = 4
const SILENCE = 1e-7 // mean square: -70 LUFS, below which nothing is called loud
const [PHASES, TAPS] = [4, 12]

/** One second-order filter, both its past inputs and outputs kept. */
class Biquad {
  private x1 = 0
  private x2 = 0
  private y1 = 0
  private y2 = 0
  constructor(private readonly c: readonly [number, number, number, number, number]) {}

  next(x: number): number {
    const [b0, b1, b2, a1, a2] = this.c
    const y = b0 * x + b1 * this.x1 + b2 * this.x2 - a1 * this.y1 - a2 * this.y2
    this.x2 = this.x1
    this.x1 = x
    this.y2 = this.y1
    this.y1 = y
    return y
  }
}

/** The two stages of the K filter at any rate; at 48 kHz they have the coefficients of the standard. */
function kFilter(rate: number): Biquad[] {
  const shelf = { hz: 1681.974450955533, db: 3.999843853973347, q: 0.7071752369554196 }
  const pass = { hz: 38.13547087602444, q: 0.5003270373238773 }
  const k = Math.tan((Math.PI * shelf.hz) / rate)
  const vh = 10 ** (shelf.db / 20)
  const vb = vh ** 0.4996667741545416
  const a0 = 1 + k / shelf.q + k * k
  const j = Math.tan((Math.PI * pass.hz) / rate)
  const d0 = 1 + j / pass.q + j * j
  return [
    new Biquad([
      (vh + (vb * k) / shelf.q + k * k) / a0,
      (2 * (k * k - vh)) / a0,
      (vh - (vb * k) / shelf.q + k * k) / a0,
      (2 * (k * k - 1)) / a0,
      (1 - k / shelf.q + k * k) / a0,
    ]),
    new Biquad([1, -2, 1, (2 * (j * j - 1)) / d0, (1 - j / pass.q + j * j) / d0]),
  ]
}

/** Filters that say what a sound is a quarter, a half and three quarters of a sample further: windowed sinc. */
const BETWEEN: readonly Float64Array[] = Array.from({ length: PHASES }, (_, phase) =>
  Float64Array.from({ length: TAPS }, (_, k) => {
    const x = k - TAPS / 2 + 1 - phase / PHASES
    const window = 0.5 + 0.5 * Math.cos((Math.PI * x) / (TAPS / 2))
    return x === 0 ? 1 : (window * Math.sin(Math.PI * x)) / (Math.PI * x)
  }),
)

/** Takes in blocks of sound and says four times in 400 ms how loud it is. */
export class Meter {
  private readonly filters: Biquad[][]
  private readonly past: Float64Array[]
  private readonly stepSamples: number
  private readonly steps: number[] = []
  private square = 0
  private count = 0
  private peak = 0

  constructor(rate: number, channels = 2) {
    this.filters = Array.from({ length: channels }, () => kFilter(rate))
    this.past = Array.from({ length: channels }, () => new Float64Array(TAPS))
    this.stepSamples = Math.round((WINDOW_S / REPORTS_PER_WINDOW) * rate)
  }

  /** Channels of one block, equally long; what is to be reported of it, mostly nothing. */
  take(block: readonly Float32Array[]): Levels | null {
    let report: Levels | null = null
    const length = block[0]?.length ?? 0
    for (let i = 0; i < length; i++) {
      for (let c = 0; c < block.length; c++) this.sample(c, block[c]![i]!)
      if (++this.count === this.stepSamples) report = this.step()
    }
    return report
  }

  private sample(channel: number, x: number): void {
    const [shelf, pass] = this.filters[channel]!
    const y = pass!.next(shelf!.next(x))
    this.square += y * y
    const past = this.past[channel]!
    past.copyWithin(0, 1)
    past[TAPS - 1] = x
    for (const taps of BETWEEN) {
      let value = 0
      for (let k = 0; k < TAPS; k++) value += taps[k]! * past[k]!
      this.peak = Math.max(this.peak, Math.abs(value))
    }
  }

  private step(): Levels {
    this.steps.push(this.square / this.stepSamples)
    if (this.steps.length > REPORTS_PER_WINDOW) this.steps.shift()
    const mean = this.steps.reduce((sum, s) => sum + s, 0) / this.steps.length
    const levels = {
      lufs: mean > SILENCE ? -0.691 + 10 * Math.log10(mean) : null,
      truePeakDb: this.peak > Math.sqrt(SILENCE) ? 20 * Math.log10(this.peak) : null,
    }
    this.square = this.count = this.peak = 0
    return levels
  }
}
