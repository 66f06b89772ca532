/**
 * Plays a programme: stretches of sound at their places on one clock, which is that of an AudioContext. The server renders
 * stretches of two seconds with the renderer that also makes the file; they are scheduled end to end on the sample clock at
 * the sound's own rate, so nothing is resampled and there is no gap. What sounds at the playhead is fetched ahead, so that
 * sound starts at once. A programme without any sound is only a clock, which a picture then follows.
 */
import { fetchSound, type FetchedSound } from '@/api/client'

export interface Part {
  /** Where its sound is asked for; another address is another sound. */
  url: string
  /** The rate it is asked for at; that of all parts of a programme is the same. */
  rate: number
  channels: number
  lengthSamples: number
  /** Where it starts on the programme's clock. */
  atS: number
}

export interface Programme {
  /** What it is a form of: going over to another form of the same thing, the position stays and playing goes on. */
  of: string
  lengthS: number
  parts: Part[]
}

const CHUNK_S = 2
const AHEAD_S = 6
const START_DELAY_S = 0.04
const FADE_S = 0.008 // so that starting and stopping in the middle of a sound does not click
const MOST_CHUNKS = 96
const DEFAULT_RATE_HZ = 48_000
const GRAIN_S = 0.09 // what is heard of each place while scrubbing
const LOOK_EVERY_MS = 40
const DRAFT_HELD_MS = 1500 // by then the print may have come

export class Player {
  private context: AudioContext | null = null
  private programme: Programme | null = null
  private key = ''
  private chunks = new Map<string, Promise<FetchedSound>>()
  private abort = new AbortController()
  private sources = new Set<AudioBufferSourceNode>()
  private level: GainNode | null = null
  private run = 0
  private startedAtS = 0
  private startedFromS = 0
  private untilS = Infinity
  private positionS = 0
  private playing = false
  private lastGrainAtS = -1
  /** Playing is on the clock: before that, while sound is on its way, we are still where we started from. */
  private isScheduled = false

  /** `onEnd` is called when playing ends by itself, `onError` with what went wrong. */
  constructor(
    private readonly onEnd: () => void,
    private readonly onError: (error: Error) => void,
    private readonly makeContext: (rate: number) => AudioContext = (rate) =>
      new AudioContext({ sampleRate: rate }),
  ) {}

  /** Change what is played. */
  load(programme: Programme | null): void {
    const key = programme ? JSON.stringify(programme) : ''
    if (key === this.key) return
    const isSame = programme?.of === this.programme?.of
    const goesOn = isSame && this.playing
    this.stop()
    if (!isSame) this.positionS = 0
    this.key = key
    this.abort.abort()
    this.abort = new AbortController()
    this.chunks.clear()
    this.programme = programme
    if (this.context && this.context.sampleRate !== this.rateHz) {
      void this.context.close()
      this.context = null
    }
    if (programme) {
      this.positionS = Math.min(this.positionS, programme.lengthS)
      if (goesOn) void this.play()
      else this.prefetch()
    }
  }

  get isPlaying(): boolean {
    return this.playing
  }

  /** Where we are, in seconds: what is heard now, output latency taken off. */
  get nowS(): number {
    if (!this.isScheduled || !this.context) return this.positionS
    const latency = this.context.outputLatency || 0
    const heard = this.startedFromS + this.context.currentTime - this.startedAtS - latency
    return Math.min(Math.max(heard, this.startedFromS), this.untilS, this.lengthS)
  }

  private get lengthS(): number {
    return this.programme?.lengthS ?? 0
  }

  private get rateHz(): number {
    return this.programme?.parts[0]?.rate ?? DEFAULT_RATE_HZ
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
    if (!this.programme) return
    this.context ??= this.makeContext(this.rateHz)
    const now = this.context.currentTime
    if (this.context.state === 'suspended') void this.context.resume()
    if (now - this.lastGrainAtS < GRAIN_S * 0.7 && this.lastGrainAtS >= 0) return
    this.lastGrainAtS = now
    const [fromS, run] = [this.positionS, this.run]
    for (const part of this.sounding(fromS, fromS + GRAIN_S)) {
      const number = chunkAt(part, fromS)
      this.chunk(part, number)
        .then((sound) => run === this.run && this.grain(part, sound.channels, number, fromS))
        .catch(() => undefined)
    }
  }

  /** Play from the position, or from `fromS`, until the end or `untilS`. */
  async play(fromS = this.positionS, untilS = Infinity): Promise<void> {
    if (!this.programme) return
    this.stop()
    this.positionS = fromS >= this.lengthS - 0.01 ? 0 : Math.max(0, fromS)
    this.untilS = Math.min(untilS, this.lengthS)
    this.context ??= this.makeContext(this.rateHz)
    this.playing = true
    const run = ++this.run
    try {
      const waking = this.context.state === 'suspended' ? this.context.resume() : undefined
      const first = this.sounding(this.positionS, this.positionS + 0.001)
      await Promise.all([waking, ...first.map((p) => this.chunk(p, chunkAt(p, this.positionS)))])
      if (run === this.run) await this.schedule(run)
    } catch (error) {
      if (run !== this.run) return
      this.stop()
      this.onError(error as Error)
    }
  }

  /** Stop and stay where we are. */
  stop(): void {
    this.positionS = this.nowS
    this.playing = this.isScheduled = false
    this.run++
    this.untilS = Infinity
    const now = this.context?.currentTime ?? 0
    this.level?.gain.setTargetAtTime(0, now, FADE_S / 3)
    for (const source of this.sources) {
      source.onended = null
      source.stop(now + FADE_S)
    }
    this.sources.clear()
  }

  dispose(): void {
    this.stop()
    this.abort.abort()
    void this.context?.close()
    this.context = null
  }

  /** The parts that sound anywhere in a span. */
  private sounding(fromS: number, toS: number): Part[] {
    const parts = this.programme?.parts ?? []
    return parts.filter((p) => p.atS < toS && p.atS + p.lengthSamples / p.rate > fromS + 0.005)
  }

  private prefetch(): void {
    if (this.positionS >= this.lengthS - 0.01) return
    for (const part of this.sounding(this.positionS, this.positionS + 0.001))
      this.chunk(part, chunkAt(part, this.positionS)).catch(() => undefined)
  }

  private chunk(part: Part, number: number, afterDraft = false): Promise<FetchedSound> {
    const key = `${part.url} ${number} ${afterDraft}`
    const known = this.chunks.get(key)
    if (known) return known
    const { url, rate, channels } = part
    const start = number * CHUNK_S * rate
    const stop = Math.min(start + CHUNK_S * rate, part.lengthSamples)
    const fetched = fetchSound({ url, rate, channels, start, stop, afterDraft }, this.abort.signal)
    const forget = () => this.chunks.get(key) === fetched && this.chunks.delete(key)
    fetched.then((sound) => sound.isDraft && setTimeout(forget, DRAFT_HELD_MS)).catch(forget)
    this.chunks.set(key, fetched)
    if (this.chunks.size > MOST_CHUNKS) this.chunks.delete(this.chunks.keys().next().value!)
    return fetched
  }

  private async schedule(run: number): Promise<void> {
    const context = this.context!
    this.startedFromS = this.positionS
    this.startedAtS = context.currentTime + START_DELAY_S
    this.isScheduled = true
    this.level = context.createGain()
    this.level.connect(context.destination)
    this.level.gain.setValueAtTime(0, this.startedAtS)
    this.level.gain.linearRampToValueAtTime(1, this.startedAtS + FADE_S)
    await Promise.all([
      this.untilEnd(run),
      ...this.sounding(this.startedFromS, this.untilS).map((part) => this.schedulePart(part, run)),
    ])
  }

  private async schedulePart(part: Part, run: number): Promise<void> {
    const untilS = Math.min(this.untilS - part.atS, part.lengthSamples / part.rate)
    const until = Math.round(untilS * part.rate)
    let at = Math.max(0, Math.round((this.startedFromS - part.atS) * part.rate))
    let wasDraft = false
    await this.untilNear(run, part.atS + at / part.rate)
    while (at < until && run === this.run) {
      const number = Math.floor(at / (CHUNK_S * part.rate))
      const sound = await this.chunk(part, number, wasDraft)
      if (run !== this.run) return
      at = this.place(part, sound.channels, number, at, until)
      wasDraft = sound.isDraft
      if (at < until)
        this.chunk(part, Math.floor(at / (CHUNK_S * part.rate)), wasDraft).catch(() => undefined)
      await this.untilNear(run, part.atS + at / part.rate)
    }
  }

  /** Put one chunk on the clock; returns the sample after it. */
  private place(part: Part, sound: Float32Array[], number: number, at: number, until: number): number {
    const context = this.context!
    const chunkStart = number * CHUNK_S * part.rate
    const stop = Math.min(chunkStart + sound[0]!.length, until)
    const when = () => this.startedAtS + (part.atS + at / part.rate - this.startedFromS)
    const late = context.currentTime - when()
    if (late > 0 && this.programme!.parts.length === 1) {
      this.startedAtS += late + START_DELAY_S // the sound came too late: go on from here, without a hole
    } else if (late > 0) {
      at += Math.ceil((late + START_DELAY_S) * part.rate) // the others play on: it joins them where they are now
      if (at >= stop) return stop
    }
    const buffer = context.createBuffer(part.channels, stop - at, part.rate)
    sound.forEach((channel, c) => buffer.copyToChannel(channel.slice(at - chunkStart, stop - chunkStart), c))
    const source = new AudioBufferSourceNode(context, { buffer })
    source.connect(this.level!)
    source.start(when())
    this.sources.add(source)
    source.onended = () => this.sources.delete(source)
    return stop
  }

  private grain(part: Part, sound: Float32Array[], number: number, fromS: number): void {
    const context = this.context!
    const start = Math.max(0, Math.round((fromS - part.atS) * part.rate) - number * CHUNK_S * part.rate)
    const stop = Math.min(start + Math.round(GRAIN_S * part.rate), sound[0]!.length)
    if (stop <= start) return
    const buffer = context.createBuffer(part.channels, stop - start, part.rate)
    sound.forEach((channel, c) => buffer.copyToChannel(channel.slice(start, stop), c))
    const source = new AudioBufferSourceNode(context, { buffer })
    const level = context.createGain()
    const [now, lengthS] = [context.currentTime, (stop - start) / part.rate]
    level.gain.setValueAtTime(0, now)
    level.gain.linearRampToValueAtTime(1, now + FADE_S)
    level.gain.setValueAtTime(1, now + Math.max(FADE_S, lengthS - 2 * FADE_S))
    level.gain.linearRampToValueAtTime(0, now + lengthS)
    source.connect(level)
    level.connect(context.destination)
    source.start(now)
  }

  private async untilEnd(run: number): Promise<void> {
    while (run === this.run && this.nowS < this.untilS) await pause(LOOK_EVERY_MS)
    if (run === this.run) this.finish()
  }

  private finish(): void {
    this.positionS = this.untilS
    this.playing = this.isScheduled = false
    this.run++
    this.untilS = Infinity
    this.onEnd()
  }

  /** Wait until what is scheduled is used up but for AHEAD_S. */
  private async untilNear(run: number, scheduledToS: number): Promise<void> {
    while (run === this.run && scheduledToS - this.nowS > AHEAD_S) await pause(200)
  }
}

/** The chunk of a part in which a moment of the programme lies. */
function chunkAt(part: Part, seconds: number): number {
  return Math.max(0, Math.floor(Math.round((seconds - part.atS) * part.rate) / (CHUNK_S * part.rate)))
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
