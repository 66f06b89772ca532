import meterUrl from './meter.worklet.ts?worker&url'
import type { Levels } from './loudness'
import { BUSES, type Bus } from './programme'

const GLIDE_S = 0.01

/** Where sound goes: clips to their bus, buses to the master, the master to the meter and the loudspeaker. */
export class Output {
  private readonly master: GainNode
  private readonly buses = new Map<Bus, GainNode>()

  constructor(
    readonly context: AudioContext,
    levels: ReadonlyMap<Bus | 'master', number>,
    onLevels: (levels: Levels) => void,
  ) {
    this.master = context.createGain()
    this.master.gain.value = levels.get('master') ?? 1
    this.master.connect(context.destination)
    for (const bus of BUSES) {
      const gain = context.createGain()
      gain.gain.value = levels.get(bus) ?? 1
      gain.connect(this.master)
      this.buses.set(bus, gain)
    }
    this.meter(onLevels).catch(() => undefined) // without it everything is heard as well
  }

  /** The meter sees what is played at its own level, whatever the loudspeaker is turned to. */
  private async meter(onLevels: (levels: Levels) => void): Promise<void> {
    if (!this.context.audioWorklet) return
    await this.context.audioWorklet.addModule(meterUrl)
    if (this.context.state === 'closed') return
    const meter = new AudioWorkletNode(this.context, 'meter', { numberOfOutputs: 0, channelCount: 2 })
    meter.port.onmessage = (message: MessageEvent<Levels>) => onLevels(message.data)
    for (const bus of this.buses.values()) bus.connect(meter)
  }

  bus(name: Bus): GainNode {
    return this.buses.get(name)!
  }

  /** Turn a bus or the master up or down, without a click. `gain`: a factor. */
  setLevel(name: Bus | 'master', gain: number): void {
    const node = name === 'master' ? this.master : this.bus(name)
    node.gain.setTargetAtTime(gain, this.context.currentTime, GLIDE_S)
  }
}
