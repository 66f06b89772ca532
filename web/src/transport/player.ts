/**
 * Plays a programme on the clock of an AudioContext. The server renders stretches of two seconds with the renderer that also
 * makes the file; they are scheduled end to end at the sound's own rate, so nothing is resampled and there is no gap. What
 * sounds at the playhead is fetched ahead, so that sound starts at once. Going over to another form of what is played, or to
 * another loop, the new run takes over from the old one on the sample where it is; where only levels are other, the run goes
 * over to them. A programme without any sound is only a clock, which a picture then follows.
 */
import type { MadeProgramme } from '@/api/client'
import { LevelGain } from './automation'
import { Course, FADE_S, type Lap, type Span } from './course'
import type { Levels } from './loudness'
import { Output } from './output'
import { isSameButLevels, lengthOf, partsOf, rateOf, type Part } from './parts'
import { busesOf, Run } from './run'
import { Sounds } from './sounds'

const GRAIN_S = 0.09 // what is heard of each place while scrubbing
const TAKE_OVER_S = 0.25 // ahead of the clock: longer than a page is busy drawing another fit
const NEAR_END_S = 0.01
const REST_AFTER_MS = 1500 // then the sound card is let go, and the meter with it

export interface PlayerEvents {
  /** Playing ended by itself. */
  ended: () => void
  failed: (error: Error) => void
  levels?: (levels: Levels) => void
}

export class Player {
  private output: Output | null = null
  private made: MadeProgramme | null = null
  private parts: Part[] = []
  private span: Span | null = null
  private readonly sounds = new Sounds()
  private readonly levels = new Map<string, number>()
  private run: Run | null = null
  /** What was asked for last: what is still on its way for something older is let go. */
  private wish = 0
  private positionS = 0
  private playing = false
  private lastGrainAtS = -1
  private resting: ReturnType<typeof setTimeout> | undefined

  constructor(
    private readonly events: PlayerEvents,
    private readonly makeContext: (rate: number) => AudioContext = (rate) =>
      new AudioContext({ sampleRate: rate }),
  ) {}

  /** Change what is played. Another form of the same thing takes over where we are. */
  load(made: MadeProgramme | null): void {
    const [before, run] = [this.made, this.run]
    const isSame = made?.of === before?.of
    if (isSame && made?.revision === before?.revision) return
    const goesOn = isSame && this.playing
    const canTakeOver = goesOn && run && made && rateOf(made) === rateOf(before)
    if (canTakeOver && this.nowS < lengthOf(made) - NEAR_END_S) {
      this.take(made)
      if (isSameButLevels(run.made, made)) run.relevel(made)
      else void this.takeOver()
      return
    }
    this.stop()
    if (!isSame) this.positionS = 0
    this.take(made)
    this.sounds.keepOnly(this.parts)
    if (this.output && this.output.context.sampleRate !== rateOf(made)) {
      void this.output.context.close()
      this.output = null
    }
    if (!made) return
    this.positionS = Math.min(this.positionS, this.lengthS)
    if (goesOn) void this.play()
    else this.prefetch()
  }

  private take(made: MadeProgramme | null): void {
    this.made = made
    this.parts = made ? partsOf(made) : []
  }

  /** Play between two moments again and again, or straight on. */
  setLoop(span: Span | null): void {
    this.span = span
    if (this.run) void this.takeOver()
  }

  /** Turn what is heard of a bus, or all of it, up or down; `gain`: a factor. */
  setLevel(name: string, gain: number): void {
    this.levels.set(name, gain)
    this.output?.setLevel(name, gain)
  }

  get isPlaying(): boolean {
    return this.playing
  }

  /** Where we are, in seconds: what is heard now; before its sound has come, where we are to start. */
  get nowS(): number {
    return this.run ? Math.max(0, Math.min(this.run.nowS, this.lengthS)) : this.positionS
  }

  private get lengthS(): number {
    return lengthOf(this.made)
  }

  seek(seconds: number): void {
    const again = this.playing
    this.glide(seconds)
    if (again) void this.play()
    else this.prefetch()
  }

  /** Be somewhere else, silently, without fetching what sounds there: for shuttling. */
  glide(seconds: number): void {
    this.stop()
    this.positionS = Math.min(Math.max(0, seconds), this.lengthS)
  }

  /** Be somewhere else and hear a moment of it: for dragging along the time axis. */
  scrub(seconds: number): void {
    this.glide(seconds)
    if (!this.made) return
    const { context } = this.opened()
    if (context.state === 'suspended') void context.resume()
    const now = context.currentTime
    if (now - this.lastGrainAtS < GRAIN_S * 0.7 && this.lastGrainAtS >= 0) return
    this.lastGrainAtS = now
    this.resting = setTimeout(() => void context.suspend(), REST_AFTER_MS)
    const [fromS, wish] = [this.positionS, this.wish]
    for (const part of this.sounding(fromS, fromS + GRAIN_S)) {
      const number = this.sounds.numberAt(part, sampleAt(part, fromS))
      this.sounds
        .fetch(part, number)
        .then((sound) => wish === this.wish && this.grain(part, sound.channels, number, fromS))
        .catch(() => undefined)
    }
  }

  /** Play from the position, or from `fromS`, until the end or `untilS`; a loop is played but where `untilS` is given. */
  async play(fromS = this.positionS, untilS?: number): Promise<void> {
    if (!this.made) return
    this.stop()
    this.positionS = fromS >= this.lengthS - NEAR_END_S ? 0 : Math.max(0, fromS)
    this.playing = true
    const wish = this.wish
    const { context } = this.opened()
    try {
      const waking = context.state === 'suspended' ? context.resume() : undefined
      await Promise.all([waking, ...this.heardAt(this.positionS)])
      if (wish === this.wish) await this.begin(this.courseFrom(this.positionS, untilS))
    } catch (error) {
      if (wish !== this.wish) return
      this.stop()
      this.events.failed(error as Error)
    }
  }

  /** Stop and stay where we are. */
  stop(): void {
    this.positionS = this.nowS
    this.playing = false
    this.wish++
    this.run?.stop()
    this.run = null
    clearTimeout(this.resting)
    this.resting = setTimeout(() => void this.output?.context.suspend(), REST_AFTER_MS)
  }

  dispose(): void {
    this.stop()
    clearTimeout(this.resting)
    this.sounds.keepOnly([])
    void this.output?.context.close()
    this.output = null
  }

  private opened(): Output {
    clearTimeout(this.resting)
    this.output ??= new Output(this.makeContext(rateOf(this.made)), this.levels, (levels) =>
      this.events.levels?.(levels),
    )
    return this.output
  }

  private courseFrom(fromS: number, untilS?: number): Course {
    const rate = rateOf(this.made)
    const until = Math.round(Math.min(untilS ?? Infinity, this.lengthS) * rate)
    return new Course(Math.round(fromS * rate), until, untilS === undefined ? this.span : null, rate)
  }

  /** Start a run, from the next moment or where it takes over, and see to its end. */
  private async begin(course: Course, startsAtS?: number): Promise<void> {
    const before = this.run
    const run = new Run(this.made!, course, this.sounds, this.output!, startsAtS, startsAtS !== undefined)
    before?.stop(startsAtS)
    this.run = run
    await Promise.all([run.play(), run.ended().then((isEnd) => isEnd && this.run === run && this.finish())])
  }

  /** Go over from what is played to what is to be played now, on the sample where both are, without a gap. */
  private async takeOver(): Promise<void> {
    const wish = ++this.wish
    const rate = rateOf(this.made)
    try {
      await Promise.all(this.heardAt(this.nowS, TAKE_OVER_S * 2))
      if (wish !== this.wish || !this.run) return
      const atS = this.output!.context.currentTime + TAKE_OVER_S
      const from = this.run.placeAt(atS)
      this.sounds.keepOnly(this.parts)
      await this.begin(this.courseFrom(from / rate), atS)
    } catch (error) {
      if (wish !== this.wish) return
      this.stop()
      this.events.failed(error as Error)
    }
  }

  private finish(): void {
    this.stop()
    this.events.ended()
  }

  /** The parts that sound anywhere in a span. */
  private sounding(fromS: number, toS: number): Part[] {
    const [from, to] = [fromS + 0.005, toS].map((s) => s * rateOf(this.made))
    return this.parts.filter(({ clip }) => clip.at_samples < to! && clip.at_samples + clip.n_samples > from!)
  }

  /** Fetch what sounds at a moment, and a little after it. */
  private heardAt(seconds: number, forS = 0.001): Promise<unknown>[] {
    return this.sounding(seconds, seconds + forS).flatMap((part) => {
      const [first, last] = [seconds, seconds + forS].map((s) =>
        this.sounds.numberAt(part, sampleAt(part, s)),
      )
      const numbers =
        last! > first! && this.sounds.startOf(part, last!) < part.clip.n_samples ? [first!, last!] : [first!]
      return numbers.map((number) => this.sounds.fetch(part, number))
    })
  }

  private prefetch(): void {
    if (this.positionS >= this.lengthS - NEAR_END_S) return
    for (const sound of this.heardAt(this.positionS)) sound.catch(() => undefined)
  }

  private grain(part: Part, sound: Float32Array[], number: number, fromS: number): void {
    const { context } = this.output!
    const start = Math.max(0, sampleAt(part, fromS) - this.sounds.startOf(part, number))
    const stop = Math.min(start + Math.round(GRAIN_S * part.rate), sound[0]!.length)
    if (stop <= start) return
    const buffer = context.createBuffer(part.channels, stop - start, part.rate)
    sound.forEach((channel, c) => buffer.copyToChannel(channel.slice(start, stop), c))
    const source = new AudioBufferSourceNode(context, { buffer })
    const ends = context.createGain()
    const [now, lengthS] = [context.currentTime, (stop - start) / part.rate]
    ends.gain.setValueAtTime(0, now)
    ends.gain.linearRampToValueAtTime(1, now + FADE_S)
    ends.gain.setValueAtTime(1, now + Math.max(FADE_S, lengthS - 2 * FADE_S))
    ends.gain.linearRampToValueAtTime(0, now + lengthS)
    const from = part.clip.at_samples + this.sounds.startOf(part, number) + start
    source.connect(ends)
    this.levelled(ends, part, { from, until: from + stop - start, at: 0 }, now)
    source.start(now)
  }

  /** Send a lap of a part through its level and that of its bus. `atS`: when the lap begins. */
  private levelled(node: AudioNode, { clip, rate }: Part, lap: Lap, atS: number): void {
    const output = this.output!
    const bus = busesOf(this.made!).find(({ name }) => name === clip.bus)!
    for (const of of [clip, bus]) {
      const level = new LevelGain(output.context, of, (sample) => atS + sample / rate)
      level.lay(lap)
      node.connect(level.node)
      node = level.node
    }
    node.connect(output.bus(clip.bus))
  }
}

/** The sample of a part that sounds at a moment of the programme. */
const sampleAt = (part: Part, seconds: number): number =>
  Math.round(seconds * part.rate) - part.clip.at_samples
