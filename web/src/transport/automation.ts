/** A gain that follows steps on the audio clock, and goes over to others while it does. */
import { FADE_S, type Lap } from './course'
import { NEARLY_NOTHING, stepsOf, type GainStep, type Levelled } from './gains'

const LATE_S = 0.003 // a render quantum: what is put on the clock for earlier may be past when it gets there

/** A step at a moment of the context's clock, in seconds. */
type Step = Omit<GainStep, 'at'> & { atS: number }

/** The gain of a clip or a bus in one run of a programme: laid out lap by lap, as it is played. */
export class LevelGain {
  readonly node: GainNode
  private readonly laps: Lap[] = []
  private steps: Step[] = []

  /** `toS`: from a sample of the run to a moment of the context's clock. */
  constructor(
    private readonly context: BaseAudioContext,
    private of: Levelled,
    private readonly toS: (sample: number) => number,
  ) {
    this.node = context.createGain()
  }

  /** Have a further lap follow its level. */
  lay(lap: Lap): void {
    this.laps.push(lap)
    this.append(fromNow(this.stepsFor(lap), this.context.currentTime + LATE_S))
  }

  /** From a moment on follow another level; it is gone over to, not jumped. */
  change(of: Levelled, atS: number): void {
    this.of = of
    this.layAnew(atS)
  }

  /** From a moment on follow its level as its laps now lie on the clock. */
  layAnew(atS: number): void {
    const wanted = this.laps.flatMap((lap) => this.stepsFor(lap))
    if (!this.steps.length || !wanted.length) return this.append(wanted)
    const { gain } = this.node
    const running = this.steps.find((step) => step.atS > atS)
    const now = valueAt(this.steps, atS)
    put(gain, { atS, gain: now, by: running?.by ?? 'set' })
    gain.cancelScheduledValues(atS + 0.5 / this.context.sampleRate)
    const overS = atS + FADE_S
    const rest = wanted.filter((step) => step.atS > overS)
    const least = rest[0]?.by === 'exponential' ? NEARLY_NOTHING : 0
    this.steps = [{ atS, gain: now, by: 'set' }]
    this.append([{ atS: overS, gain: Math.max(valueAt(wanted, overS), least), by: 'linear' }, ...rest])
  }

  private append(steps: Step[]): void {
    for (const step of steps) put(this.node.gain, step)
    this.steps.push(...steps)
  }

  private stepsFor({ from, until, at }: Lap): Step[] {
    return stepsOf(this.of, from, until).map((step) => ({
      ...step,
      atS: Math.max(0, this.toS(at + step.at - from)),
    }))
  }
}

/** Steps of which some are past already: the audio clock would move those to now, and every line from them. */
function fromNow(steps: Step[], nowS: number): Step[] {
  if (!steps.length || steps[0]!.atS >= nowS) return steps
  return [{ atS: nowS, gain: valueAt(steps, nowS), by: 'set' }, ...steps.filter((step) => step.atS > nowS)]
}

function put(gain: AudioParam, step: Step): void {
  if (step.by === 'linear') gain.linearRampToValueAtTime(step.gain, step.atS)
  else if (step.by === 'exponential') gain.exponentialRampToValueAtTime(step.gain, step.atS)
  else gain.setValueAtTime(step.gain, step.atS)
}

/** The gain at a moment, as the audio clock reckons it. */
function valueAt(steps: Step[], atS: number): number {
  const next = steps.findIndex((step) => step.atS > atS)
  const [a, b] = next < 0 ? [steps.at(-1), undefined] : [steps[next - 1], steps[next]]
  if (!a || !b || b.by === 'set') return (a ?? b)?.gain ?? 1
  const part = (atS - a.atS) / (b.atS - a.atS)
  return b.by === 'linear' ? a.gain + part * (b.gain - a.gain) : a.gain * (b.gain / a.gain) ** part
}
