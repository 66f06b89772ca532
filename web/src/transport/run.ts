import type { Output } from './output'
import { BUSES, FADE_S, rateOf, type Bus, type Course, type Part, type Programme } from './programme'
import type { Sounds } from './sounds'

const AHEAD_S = 6
const START_DELAY_S = 0.04
const LOOK_EVERY_MS = 40

/**
 * One run of a programme along a course, on the clock of the sound card. Its stretches are scheduled end to end on whole
 * samples, lap after lap, so that there is no gap; what is later than it should be puts a lonely part off, and others go on.
 */
export class Run {
  private readonly rate: number
  private readonly levels = new Map<Bus, GainNode>()
  private startsAtS: number
  private readonly sources = new Set<AudioBufferSourceNode>()
  private isOver = false

  /** `startsAtS`: on the context's clock; `isTakingOver`: from a run that plays the same place until then. */
  constructor(
    private readonly programme: Programme,
    readonly course: Course,
    private readonly sounds: Sounds,
    private readonly output: Output,
    startsAtS = output.context.currentTime + START_DELAY_S,
    private readonly isTakingOver = false,
  ) {
    this.rate = rateOf(programme)
    this.startsAtS = this.onSample(startsAtS)
    for (const bus of BUSES) {
      const level = output.context.createGain()
      level.connect(output.bus(bus))
      this.levels.set(bus, level)
    }
    this.fadeIn()
  }

  private fadeIn(): void {
    for (const { gain } of this.levels.values()) {
      gain.cancelScheduledValues(0)
      gain.value = 0 // until then as well: an event on a sample may take hold on the one after it, which would be a click
      gain.setValueAtTime(0, this.startsAtS)
      gain.linearRampToValueAtTime(1, this.startsAtS + FADE_S)
    }
  }

  /** What begins between two samples would be interpolated. */
  private onSample(contextS: number): number {
    return Math.round(contextS * this.rate) / this.rate
  }

  /** Samples since it began, output latency taken off. */
  private get played(): number {
    const { currentTime, outputLatency } = this.output.context
    const played = (currentTime - this.startsAtS - (outputLatency || 0)) * this.rate
    return this.isTakingOver ? played : Math.max(0, played)
  }

  /** Where in the programme it is, in seconds: what is heard now. */
  get nowS(): number {
    return this.course.placeAfter(Math.min(this.played, this.course.length)) / this.rate
  }

  get isAtEnd(): boolean {
    return this.played >= this.course.length
  }

  /** Where in the programme it will be at a moment of the context's clock, in samples. */
  placeAt(contextS: number): number {
    return this.course.placeAfter(Math.max(0, Math.round((contextS - this.startsAtS) * this.rate)))
  }

  /** Put all its sounds on the clock as their time comes; done when the last is there. Throws what fetching throws. */
  async play(): Promise<void> {
    await Promise.all(this.programme.parts.map((part) => this.playPart(part)))
  }

  private async playPart(part: Part): Promise<void> {
    const starts = Math.round(part.atS * this.rate)
    let wasDraft = false
    for (const lap of this.course.laps()) {
      await this.untilNear(lap.at)
      if (this.isOver) return
      let at = Math.max(0, lap.from - starts)
      const until = Math.min(lap.until - starts, part.lengthSamples)
      const offset = lap.at + starts - lap.from // from samples of the part to samples of the run
      if (at < until) await this.untilNear(at + offset)
      while (at < until && !this.isOver) {
        const number = this.sounds.numberAt(part, at)
        const sound = await this.sounds.fetch(part, number, wasDraft)
        if (this.isOver) return
        at = this.place(part, sound.channels, this.sounds.startOf(part, number), at, until, offset)
        wasDraft = sound.isDraft
        if (at < until) this.sounds.ahead(part, this.sounds.numberAt(part, at), wasDraft)
        await this.untilNear(at + offset)
      }
    }
  }

  /** Put a stretch of sound that begins at sample `first` of its part on the clock, from `at` on; returns the sample after it. */
  private place(
    part: Part,
    sound: Float32Array[],
    first: number,
    at: number,
    until: number,
    offset: number,
  ): number {
    const { context } = this.output
    const stop = Math.min(first + sound[0]!.length, until)
    const when = () => this.startsAtS + (at + offset) / this.rate
    const late = context.currentTime - when()
    if (late > 0 && this.programme.parts.length === 1) {
      this.startsAtS = this.onSample(this.startsAtS + late + START_DELAY_S) // the sound came too late: go on from here, without a hole
      if (!this.sources.size) this.fadeIn()
    } else if (late > 0) {
      at += Math.ceil((late + START_DELAY_S) * this.rate) // the others play on: it joins them where they are now
      if (at >= stop) return stop
    }
    const buffer = context.createBuffer(part.channels, stop - at, this.rate)
    sound.forEach((channel, c) => buffer.copyToChannel(channel.slice(at - first, stop - first), c))
    const source = new AudioBufferSourceNode(context, { buffer })
    source.connect(this.levels.get(part.bus)!)
    source.start(when())
    this.sources.add(source)
    source.onended = () => this.sources.delete(source)
    return stop
  }

  /** Fade out and be over, from a moment of the context's clock on. */
  stop(atS = this.output.context.currentTime): void {
    this.isOver = true
    for (const { gain } of this.levels.values()) {
      gain.setValueAtTime(1, atS)
      gain.linearRampToValueAtTime(0, atS + FADE_S)
    }
    for (const source of this.sources) {
      source.onended = null
      source.stop(atS + FADE_S)
    }
    this.sources.clear()
  }

  /** Wait until a sample of the run is near enough to be put on the clock. */
  private async untilNear(sample: number): Promise<void> {
    while (!this.isOver && (sample - this.played) / this.rate > AHEAD_S) await pause(5 * LOOK_EVERY_MS)
  }

  /** Wait for the end; false where it was stopped before. */
  async ended(): Promise<boolean> {
    while (!this.isOver && !this.isAtEnd) await pause(LOOK_EVERY_MS)
    return !this.isOver
  }
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
