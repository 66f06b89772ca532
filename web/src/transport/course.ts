/** The order in which a programme is played. Places are counted in samples of its rate. */

/** Over so long what begins, ends or takes over in the middle of a sound does not click. */
export const FADE_S = 0.008

export interface Span {
  fromS: number
  toS: number
}

const LEAST_LOOP_S = 0.1

/** A stretch of the programme that is played, and the sample of the run at which it begins. */
export interface Lap {
  from: number
  until: number
  at: number
}

/** Straight on, or again and again between two moments. */
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
