/**
 * Plays a fit or a track. The server renders stretches of two seconds with the renderer that also makes the file; they are
 * scheduled end to end on the sample clock of an AudioContext at the fit's own rate, so nothing is resampled and there
 * is no gap. The stretch at the playhead is fetched ahead, so that sound starts at once.
 */
import { fetchSound } from '@/api/client'

export interface Playable {
  /** Where its sound is asked for; another address is another sound. */
  url: string
  /** What it is a form of: going over to another form of the same thing, the position stays and playing goes on. */
  of: string
  rate: number
  channels: number
  lengthSamples: number
}

const CHUNK_S = 2
const AHEAD_S = 6
const START_DELAY_S = 0.04
const FADE_S = 0.008 // so that starting and stopping in the middle of a sound does not click
const MOST_CHUNKS = 64

export class Player {
  private context: AudioContext | null = null
  private fit: Playable | null = null
  private chunks = new Map<number, Promise<Float32Array[]>>()
  private abort = new AbortController()
  private sources = new Set<AudioBufferSourceNode>()
  private level: GainNode | null = null
  private run = 0
  private startedAtS = 0
  private startedFromS = 0
  private untilS = Infinity
  private positionS = 0
  private playing = false
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
  load(fit: Playable | null): void {
    if (fit?.url === this.fit?.url) return
    const isSame = fit?.of === this.fit?.of
    const goesOn = isSame && this.playing
    this.stop()
    if (!isSame) this.positionS = 0
    this.abort.abort()
    this.abort = new AbortController()
    this.chunks.clear()
    if (this.context && this.context.sampleRate !== fit?.rate) {
      void this.context.close()
      this.context = null
    }
    this.fit = fit
    if (fit) {
      this.positionS = Math.min(this.positionS, fit.lengthSamples / fit.rate)
      if (goesOn) void this.play()
      else this.prefetch()
    }
  }

  get isPlaying(): boolean {
    return this.playing
  }

  /** Where we are in the fit, in seconds: what is heard now, output latency taken off. */
  get nowS(): number {
    if (!this.isScheduled || !this.context) return this.positionS
    const latency = this.context.outputLatency || 0
    const heard = this.startedFromS + this.context.currentTime - this.startedAtS - latency
    return Math.min(Math.max(heard, this.startedFromS), this.untilS, this.lengthS)
  }

  private get lengthS(): number {
    return this.fit ? this.fit.lengthSamples / this.fit.rate : 0
  }

  seek(seconds: number): void {
    const again = this.playing
    this.stop()
    this.positionS = Math.min(Math.max(0, seconds), this.lengthS)
    if (again) void this.play()
    else this.prefetch()
  }

  /** Play from the position, or from `fromS`, until the end or `untilS`. */
  async play(fromS = this.positionS, untilS = Infinity): Promise<void> {
    if (!this.fit) return
    this.stop()
    this.positionS = fromS >= this.lengthS - 0.01 ? 0 : Math.max(0, fromS)
    this.untilS = Math.min(untilS, this.lengthS)
    this.context ??= this.makeContext(this.fit.rate)
    this.playing = true
    const run = ++this.run
    try {
      const waking = this.context.state === 'suspended' ? this.context.resume() : undefined
      await Promise.all([waking, this.chunk(this.chunkAt(this.positionS))])
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

  /** Samples of the chunk grid. */
  private chunkAt(seconds: number): number {
    return Math.floor(Math.round(seconds * this.fit!.rate) / (CHUNK_S * this.fit!.rate))
  }

  private prefetch(): void {
    if (this.fit && this.positionS < this.lengthS - 0.01)
      this.chunk(this.chunkAt(this.positionS)).catch(() => undefined)
  }

  private chunk(number: number): Promise<Float32Array[]> {
    const known = this.chunks.get(number)
    if (known) return known
    const fit = this.fit!
    const start = number * CHUNK_S * fit.rate
    const stop = Math.min(start + CHUNK_S * fit.rate, fit.lengthSamples)
    const fetched = fetchSound(fit.url, start, stop, fit.channels, this.abort.signal)
    fetched.catch(() => this.chunks.delete(number))
    this.chunks.set(number, fetched)
    if (this.chunks.size > MOST_CHUNKS) this.chunks.delete(this.chunks.keys().next().value!)
    return fetched
  }

  private async schedule(run: number): Promise<void> {
    const [context, fit] = [this.context!, this.fit!]
    const from = Math.round(this.positionS * fit.rate)
    const until = Math.round(this.untilS * fit.rate)
    this.startedFromS = from / fit.rate
    this.startedAtS = context.currentTime + START_DELAY_S
    this.isScheduled = true
    this.level = context.createGain()
    this.level.connect(context.destination)
    this.level.gain.setValueAtTime(0, this.startedAtS)
    this.level.gain.linearRampToValueAtTime(1, this.startedAtS + FADE_S)
    let at = from
    while (at < until && run === this.run) {
      const number = Math.floor(at / (CHUNK_S * fit.rate))
      const sound = await this.chunk(number)
      if (run !== this.run) return
      at = this.place(sound, number, at, until)
      if (at < until) void this.chunk(Math.floor(at / (CHUNK_S * fit.rate))).catch(() => undefined)
      await this.untilNear(run, at / fit.rate)
    }
  }

  /** Put one chunk on the clock; returns the sample after it. */
  private place(sound: Float32Array[], number: number, at: number, until: number): number {
    const [context, fit] = [this.context!, this.fit!]
    const chunkStart = number * CHUNK_S * fit.rate
    const stop = Math.min(chunkStart + sound[0]!.length, until)
    const buffer = context.createBuffer(fit.channels, stop - at, fit.rate)
    sound.forEach((channel, c) => buffer.copyToChannel(channel.slice(at - chunkStart, stop - chunkStart), c))
    const source = new AudioBufferSourceNode(context, { buffer })
    source.connect(this.level!)
    const when = this.startedAtS + (at / fit.rate - this.startedFromS)
    const late = context.currentTime - when
    if (late > 0) this.startedAtS += late + START_DELAY_S // the sound came too late: go on from here, without a hole
    source.start(this.startedAtS + (at / fit.rate - this.startedFromS))
    this.sources.add(source)
    source.onended = () => {
      this.sources.delete(source)
      if (stop >= until) this.finish()
    }
    return stop
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
    while (run === this.run && scheduledToS - this.nowS > AHEAD_S) {
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
  }
}
