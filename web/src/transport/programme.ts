/** What is played: stretches of sound at their places on one clock. Times of the clock are counted in samples of its rate. */

export const BUSES = ['music', 'own'] as const
export type Bus = (typeof BUSES)[number]

/** Over so long what begins, ends or takes over in the middle of a sound does not click. */
export const FADE_S = 0.008

export interface Part {
  /** Where its sound is asked for; another address is another sound. */
  url: string
  /** The rate it is asked for at; that of all parts of a programme is the same. */
  rate: number
  channels: number
  lengthSamples: number
  /** Where it starts on the programme's clock. */
  atS: number
  /** The music, or the picture's own sound. */
  bus: Bus
}

export interface Programme {
  /** What it is a form of: going over to another form of the same thing, the position stays and playing goes on. */
  of: string
  lengthS: number
  parts: Part[]
}

export interface Span {
  fromS: number
  toS: number
}

const DEFAULT_RATE_HZ = 48_000
const LEAST_LOOP_S = 0.1

export const rateOf = (programme: Programme | null): number => programme?.parts[0]?.rate ?? DEFAULT_RATE_HZ

/** A stretch of the programme that is played, and the sample of the run at which it begins. */
export interface Lap {
  from: number
  until: number
  at: number
}

/** The order in which a programme is played: straight on, or again and again between two moments. In samples. */
export class Course {
  readonly loop: { from: number; until: number } | null

  /** From a sample to before another; a loop that begins behind the start, or is shorter than a moment, is none. */
  constructor(
    readonly from: number,
    readonly until: number,
    span: Span | null,
    rate: number,
  ) {
    const [a, b] = span
      ? [Math.round(span.fromS * rate), Math.min(Math.round(span.toS * rate), until)]
      : [0, 0]
    this.loop = b - a >= LEAST_LOOP_S * rate && from < b ? { from: a, until: b } : null
  }

  /** Samples until it ends by itself. */
  get length(): number {
    return this.loop ? Infinity : this.until - this.from
  }

  /** Where in the programme it is after so many samples. */
  placeAfter(samples: number): number {
    const place = this.from + samples
    if (!this.loop || place < this.loop.until) return Math.min(place, this.until)
    const { from, until } = this.loop
    return from + ((place - from) % (until - from))
  }

  /** The stretches it plays, one after the other. */
  *laps(): Generator<Lap> {
    const end = this.loop?.until ?? this.until
    yield { from: this.from, until: end, at: 0 }
    if (!this.loop) return
    const { from, until } = this.loop
    for (let at = end - this.from; ; at += until - from) yield { from, until, at }
  }
}
