/** How much of the music is heard where: its fades, as the renderer makes them. */
import type { Plan, Schemas } from '@/api/client'

interface Ramp {
  fromS: number
  toS: number
  /** 1 where it rises, -1 where it falls. */
  way: 1 | -1
  shape: Schemas['Fade']['shape']
}

/** The level, 0 to 1, at a moment of the output: faded at both ends and around every rest. */
export function levelsOf(plan: Plan): (outS: number) => number {
  const ramps = rampsOf(plan)
  return (outS) => ramps.reduce((level, ramp) => level * levelOn(ramp, outS), 1)
}

function rampsOf({ rate, target_samples, fade_in, fade_out, rests }: Plan): Ramp[] {
  const ramp = (atSamples: number, { n_samples, shape }: Schemas['Fade'], way: 1 | -1): Ramp => {
    const [fromS, toS] = way > 0 ? [atSamples, atSamples + n_samples] : [atSamples - n_samples, atSamples]
    return { fromS: fromS / rate, toS: toS / rate, way, shape }
  }
  return [
    ramp(0, fade_in, 1),
    ramp(target_samples, fade_out, -1),
    ...rests
      .filter((rest) => rest.out_out_samples < target_samples)
      .map((rest) => ramp(rest.out_out_samples, rest.fade_after, 1)),
    ...rests.map((rest) => ramp(rest.out_in_samples, rest.fade_before, -1)),
  ].filter((r) => r.toS > r.fromS)
}

function levelOn({ fromS, toS, way, shape }: Ramp, outS: number): number {
  if (outS < fromS || outS > toS) return 1
  const along = (outS - fromS) / (toS - fromS)
  const gain = way > 0 ? along : 1 - along
  return shape === 'cosine' ? 0.5 - 0.5 * Math.cos(Math.PI * gain) : gain
}
