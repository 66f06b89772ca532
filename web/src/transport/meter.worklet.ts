import { Meter } from './loudness'

/** The meter, on the thread of the sound. */
declare const sampleRate: number
declare function registerProcessor(name: string, processor: unknown): void
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}

const SILENCE = [new Float32Array(128)]

class MeterProcessor extends AudioWorkletProcessor {
  private readonly meter = new Meter(sampleRate)

  process([input]: Float32Array[][]): boolean {
    const levels = this.meter.take(input?.length ? input : SILENCE)
    if (levels) this.port.postMessage(levels)
    return true
  }
}

registerProcessor('meter', MeterProcessor)
