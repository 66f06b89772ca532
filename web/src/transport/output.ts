import meterUrl from './meter.worklet.ts?worker&url'
import type { Levels } from './loudness'

const GLIDE_S = 0.01

/** Where sound goes: clips to their bus, buses to the master, the master to the meter and the loudspeaker. */
export class Output {
  private readonly master: GainNode
  private readonly buses = new Map<string, GainNode>()
  private meterNode: AudioWorkletNode | null = null

  constructor(
    readonly context: AudioContext,
    private readonly levels: ReadonlyMap<string, number>,
    onLevels: (levels: Levels) => void,
  ) {
    this.master = context.createGain()
    this.master.gain.value = levels.get('master') ?? 1
    this.master.connect(context.destination)
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
    this.meterNode = meter
  }

  /** What clips of a bus go to, whatever run they are of. */
  bus(name: string): GainNode {
    const known = this.buses.get(name)
    if (known) return known
    const bus = this.context.createGain()
    bus.gain.value = this.levels.get(name) ?? 1
    bus.connect(this.master)
    if (this.meterNode) bus.connect(this.meterNode)
    this.buses.set(name, bus)
    return bus
  }

  /** Turn what is heard of a bus, or all of it, up or down, without a click. `gain`: a factor. */
  setLevel(name: string, gain: number): void {
    const node = name === 'master' ? this.master : this.bus(name)
    node.gain.setTargetAtTime(gain, this.context.currentTime, GLIDE_S)
  }
}
