/** Geometry of the fit view: plan and chart in, shapes out. No canvas, no components. */
import type { Chart, Plan } from '@/api/client'
import { toPx, type TimeScale } from './scale'

export interface Piece {
  /** Source and output stretch in seconds, of one section inside one passage. */
  sourceInS: number
  sourceOutS: number
  outInS: number
  outOutS: number
  label: string
  passage: number
}

/** Cut the passages where sections change, so that each piece has one letter. */
export function pieces(plan: Plan, chart: Chart): Piece[] {
  const found: Piece[] = []
  plan.passages.forEach((passage, number) => {
    const { pins } = passage
    for (let i = 0; i + 1 < pins.length; i++) {
      const { source_samples: s0, out_samples: o0 } = pins[i]!
      const { source_samples: s1, out_samples: o1 } = pins[i + 1]!
      const toOut = (s: number) => o0 + ((s - s0) * (o1 - o0)) / (s1 - s0)
      for (const [a, b, label] of sectionsWithin(chart, s0, s1)) {
        const last = found.at(-1)
        if (last && last.passage === number && last.label === label) {
          last.sourceOutS = b / plan.rate
          last.outOutS = toOut(b) / plan.rate
        } else {
          found.push({
            sourceInS: a / plan.rate,
            sourceOutS: b / plan.rate,
            outInS: toOut(a) / plan.rate,
            outOutS: toOut(b) / plan.rate,
            label,
            passage: number,
          })
        }
      }
    }
  })
  return found
}

function sectionsWithin(chart: Chart, from: number, to: number): [number, number, string][] {
  const parts: [number, number, string][] = []
  let at = from
  for (const section of chart.sections) {
    const end = Math.min(to, section.end_samples)
    if (end <= at) continue
    parts.push([at, end, section.label])
    at = end
  }
  if (at < to) parts.push([at, to, chart.sections.at(-1)?.label ?? 'A'])
  return parts
}

/** The two time axes of the fit view: what is heard, above, and the track that it comes from, below. */
export interface Scales {
  out: TimeScale
  source: TimeScale
}

/** Outline of a ribbon from the fitted lane (above) to the source lane (below), with an S-shaped fall. */
export function ribbonPath(scales: Scales, piece: Piece, topPx: number, bottomPx: number): string {
  const [a, b] = [toPx(scales.out, piece.outInS), toPx(scales.out, piece.outOutS)]
  const [c, d] = [toPx(scales.source, piece.sourceInS), toPx(scales.source, piece.sourceOutS)]
  const [y1, y2] = [topPx + (bottomPx - topPx) * 0.45, topPx + (bottomPx - topPx) * 0.55]
  const f = (n: number) => n.toFixed(1)
  return (
    `M${f(a)} ${f(topPx)}C${f(a)} ${f(y2)} ${f(c)} ${f(y1)} ${f(c)} ${f(bottomPx)}` +
    `L${f(d)} ${f(bottomPx)}C${f(d)} ${f(y1)} ${f(b)} ${f(y2)} ${f(b)} ${f(topPx)}Z`
  )
}

export interface SpeedStep {
  outInS: number
  outOutS: number
  changePct: number
}

/** The speed lane: per cent of change between pins, equal neighbours joined. */
export function speedSteps(plan: Plan): SpeedStep[] {
  const steps: SpeedStep[] = []
  for (const passage of plan.passages) {
    for (let i = 0; i + 1 < passage.pins.length; i++) {
      const { source_samples: s0, out_samples: o0 } = passage.pins[i]!
      const { source_samples: s1, out_samples: o1 } = passage.pins[i + 1]!
      const changePct = ((s1 - s0) / (o1 - o0) - 1) * 100
      const last = steps.at(-1)
      if (last && Math.abs(last.changePct - changePct) < 0.005) last.outOutS = o1 / plan.rate
      else steps.push({ outInS: o0 / plan.rate, outOutS: o1 / plan.rate, changePct })
    }
  }
  return steps
}

/** The largest change of speed anywhere, in per cent, with its sign. */
export function mostSpeedPct(plan: Plan): number {
  return speedSteps(plan).reduce(
    (most, s) => (Math.abs(s.changePct) > Math.abs(most) ? s.changePct : most),
    0,
  )
}

/** The output time a passage's sound at `sourceS` is heard at, and back: used to follow the playhead in the source. */
export function sourceAt(plan: Plan, outS: number): number | null {
  const out = outS * plan.rate
  for (const { pins } of plan.passages) {
    for (let i = 0; i + 1 < pins.length; i++) {
      const { source_samples: s0, out_samples: o0 } = pins[i]!
      const { source_samples: s1, out_samples: o1 } = pins[i + 1]!
      if (out >= o0 && out < o1) return (s0 + ((out - o0) * (s1 - s0)) / (o1 - o0)) / plan.rate
    }
  }
  return null
}

/** When a place of the track is heard first, in seconds of the output; null where it is not heard. */
export function heardAt(plan: Plan, sourceS: number): number | null {
  const source = sourceS * plan.rate
  for (const { pins } of plan.passages) {
    for (let i = 0; i + 1 < pins.length; i++) {
      const { source_samples: s0, out_samples: o0 } = pins[i]!
      const { source_samples: s1, out_samples: o1 } = pins[i + 1]!
      if (source >= s0 && source < s1) return (o0 + ((source - s0) * (o1 - o0)) / (s1 - s0)) / plan.rate
    }
  }
  return null
}

/** The stretch of the track that what is heard from one moment to another comes from; null where nothing is. */
export function sourceSpan(pieces: Piece[], fromS: number, toS: number): [number, number] | null {
  const heard = pieces
    .filter((p) => p.outOutS > fromS && p.outInS < toS)
    .map((p) => {
      const perS = (p.sourceOutS - p.sourceInS) / (p.outOutS - p.outInS)
      const at = (outS: number) =>
        p.sourceInS + (Math.min(Math.max(outS, p.outInS), p.outOutS) - p.outInS) * perS
      return [at(fromS), at(toS)] as const
    })
  if (!heard.length) return null
  return [Math.min(...heard.map((h) => h[0])), Math.max(...heard.map((h) => h[1]))]
}

/** What is used of the track, each place once however often it is heard, in stretches of one section. */
export function usedSpans(pieces: readonly Piece[]): { fromS: number; toS: number; label: string }[] {
  const spans: { fromS: number; toS: number; label: string }[] = []
  for (const p of [...pieces].sort((a, b) => a.sourceInS - b.sourceInS)) {
    const last = spans.at(-1)
    if (last && last.label === p.label && p.sourceInS <= last.toS) last.toS = Math.max(last.toS, p.sourceOutS)
    else spans.push({ fromS: p.sourceInS, toS: p.sourceOutS, label: p.label })
  }
  return spans
}

/** Length of the bar around a time in the source, in seconds: what "two bars around a seam" is measured in. */
export function barAtS(chart: Chart, sourceSamples: number): number {
  const downbeats = chart.beats.filter((_, i) => chart.beat_in_bar[i] === 0)
  for (let i = 0; i + 1 < downbeats.length; i++) {
    if (downbeats[i + 1]! > sourceSamples) return (downbeats[i + 1]! - downbeats[i]!) / chart.rate
  }
  return usualBarS(chart)
}

/** Length of a usual bar, in seconds; of a breath in free time. */
export function usualBarS(chart: Chart): number {
  return chart.tempo_bpm > 0 ? (chart.beats_per_bar * 60) / chart.tempo_bpm : 2
}
