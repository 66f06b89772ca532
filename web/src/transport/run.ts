import type { MadeProgramme } from '@/api/client'
import { LevelGain } from './automation'
import { FADE_S, type Course, type Lap } from './course'
import type { Output } from './output'
import { partsOf, rateOf, type Part } from './parts'
import type { Sounds } from './sounds'

const AHEAD_S = 6
const START_DELAY_S = 0.04
const CHANGE_DELAY_S = 0.02 // what is put on the clock for now would come too late
const LOOK_EVERY_MS = 40

/** A stretch of fetched sound: of a part, from its sample `first`. */
interface Stretch {
  part: Part
  sound: Float32Array[]
  first: number
}

/**
 * One run of a programme along a course, on the clock of the sound card. Its stretches are scheduled end to end on whole
 * samples, lap after lap, so that there is no gap, and so are the gains of clips and buses; what is later than it should be
 * puts a lonely part off, and others go on.
 */
export class Run {
  private readonly rate: number
  private readonly parts: Part[]
  /** What begins and ends the run without a click, by bus. */
  private readonly ends = new Map<string, GainNode>()
  private readonly buses = new Map<string, LevelGain>()
  private readonly clips: LevelGain[]
  private startsAtS: number
  private readonly sources = new Set<AudioBufferSourceNode>()
  private isOver = false

  /** `startsAtS`: on the context's clock; `isTakingOver`: from a run that plays the same place until then. */
  constructor(
    readonly made: MadeProgramme,
    readonly course: Course,
    private readonly sounds: Sounds,
    private readonly output: Output,
    startsAtS = output.context.currentTime + START_DELAY_S,
    private readonly isTakingOver = false,
  ) {
    const { context } = output
    this.rate = rateOf(made)
    this.parts = partsOf(made)
    this.startsAtS = this.onSample(startsAtS)
    const toS = (sample: number) => this.startsAtS + sample / this.rate
    for (const bus of busesOf(made)) {
      const [level, end] = [new LevelGain(context, bus, toS), context.createGain()]
      level.node.connect(end)
      end.connect(output.bus(bus.name))
      this.buses.set(bus.name, level)
      this.ends.set(bus.name, end)
    }
    this.clips = this.parts.map(({ clip }) => {
      const level = new LevelGain(context, clip, toS)
      level.node.connect(this.buses.get(clip.bus)!.node)
      return level
    })
    this.fadeIn()
  }

  private fadeIn(): void {
    for (const { gain } of this.ends.values()) {
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
    await Promise.all([this.playBuses(), ...this.parts.map((part, i) => this.playPart(part, this.clips[i]!))])
  }

  private async playBuses(): Promise<void> {
    for await (const lap of this.lapsAhead()) for (const level of this.buses.values()) level.lay(lap)
  }

  private async playPart(part: Part, level: LevelGain): Promise<void> {
    const { at_samples: starts, n_samples: length } = part.clip
    let wasDraft = false
    for await (const lap of this.lapsAhead()) {
      level.lay(lap)
      let at = Math.max(0, lap.from - starts)
      const until = Math.min(lap.until - starts, length)
      const offset = lap.at + starts - lap.from // from samples of the part to samples of the run
      if (at < until) await this.untilNear(at + offset)
      while (at < until && !this.isOver) {
        const number = this.sounds.numberAt(part, at)
        const sound = await this.sounds.fetch(part, number, wasDraft)
        if (this.isOver) return
        const stretch = { part, sound: sound.channels, first: this.sounds.startOf(part, number) }
        at = this.place(stretch, level, at, until, offset)
        wasDraft = sound.isDraft
        if (at < until) this.sounds.ahead(part, this.sounds.numberAt(part, at), wasDraft)
        await this.untilNear(at + offset)
      }
    }
  }

  /** The laps of the course as their time comes. */
  private async *lapsAhead(): AsyncGenerator<Lap> {
    for (const lap of this.course.laps()) {
      await this.untilNear(lap.at)
      if (this.isOver) return
      yield lap
    }
  }

  /** Put a stretch on the clock, from sample `at` of its part on; returns the sample after it. */
  private place(
    { part, sound, first }: Stretch,
    level: LevelGain,
    at: number,
    until: number,
    offset: number,
  ): number {
    const { context } = this.output
    const stop = Math.min(first + sound[0]!.length, until)
    const when = () => this.startsAtS + (at + offset) / this.rate
    const late = context.currentTime - when()
    if (late > 0 && this.parts.length === 1) {
      this.putOff(late + START_DELAY_S) // the sound came too late: go on from here, without a hole
    } else if (late > 0) {
      at += Math.ceil((late + START_DELAY_S) * this.rate) // the others play on: it joins them where they are now
      if (at >= stop) return stop
    }
    const buffer = context.createBuffer(part.channels, stop - at, this.rate)
    sound.forEach((channel, c) => buffer.copyToChannel(channel.slice(at - first, stop - first), c))
    const source = new AudioBufferSourceNode(context, { buffer })
    source.connect(level.node)
    source.start(when())
    this.sources.add(source)
    source.onended = () => this.sources.delete(source)
    return stop
  }

  private putOff(byS: number): void {
    this.startsAtS = this.onSample(this.startsAtS + byS)
    if (!this.sources.size) this.fadeIn()
    for (const level of [...this.buses.values(), ...this.clips])
      level.layAnew(this.output.context.currentTime)
  }

  /** Go over to the levels of a programme that is other in nothing else. */
  relevel(made: MadeProgramme): void {
    const atS = this.output.context.currentTime + CHANGE_DELAY_S
    for (const bus of busesOf(made)) this.buses.get(bus.name)?.change(bus, atS)
    for (const [i, clip] of made.programme.clips.entries()) this.clips[i]?.change(clip, atS)
  }

  /** Fade out and be over, from a moment of the context's clock on. */
  stop(atS = this.output.context.currentTime): void {
    this.isOver = true
    for (const { gain } of this.ends.values()) {
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

/** The buses, each as something that has a level from the first sample to the last. */
export const busesOf = ({ programme: { buses, n_samples } }: MadeProgramme) =>
  buses.map((bus) => ({ ...bus, at_samples: 0, n_samples }))

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
