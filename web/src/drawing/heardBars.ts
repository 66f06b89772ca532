/** Bars on a time axis, of a track where a fit has them heard or of a tempo map: drawn, and taken hold of. No components. */
import type { Chart, Plan } from '@/api/client'
import type { Paper } from './painters'
import { inViewPx, toPx, type TimeScale } from './scale'

export interface Bar {
  /** As the track or the map is counted, from 1. */
  bar: number
  atS: number
}
export interface HeardBar extends Bar {
  sourceSamples: number
}

const LEAST_NUMBER_PX = 30
const LEAST_BAR_PX = 5
const REACH_PX = 9

/** Every bar line of a plan in order of time. */
export function heardBars(plan: Plan, chart: Chart): HeardBar[] {
  if (chart.free_time) return []
  const downbeats = chart.beats.filter((_, i) => chart.beat_in_bar[i] === 0)
  const bars: HeardBar[] = []
  for (const { pins } of plan.passages) {
    let at = 0
    downbeats.forEach((source, index) => {
      if (source < pins[0]!.source_samples || source >= pins.at(-1)!.source_samples) return
      while (pins[at + 1]!.source_samples <= source) at++
      const [a, b] = [pins[at]!, pins[at + 1]!]
      const perSample = (b.out_samples - a.out_samples) / (b.source_samples - a.source_samples)
      const out = a.out_samples + (source - a.source_samples) * perSample
      if (out >= 0) bars.push({ bar: index + 1, sourceSamples: source, atS: out / plan.rate })
    })
  }
  return bars.sort((a, b) => a.atS - b.atS)
}

/** Of how many bars one is drawn, and one numbered, so that they do not touch; powers of two. */
export function thinned(bars: readonly Bar[], scale: TimeScale): { drawn: number; numbered: number } {
  const apartS = bars.length > 1 ? (bars.at(-1)!.atS - bars[0]!.atS) / (bars.length - 1) : 1
  const [drawn, numbered] = [LEAST_BAR_PX, LEAST_NUMBER_PX].map((least) => {
    let each = 1
    while (each * apartS * scale.pxPerS < least && each < 1024) each *= 2
    return each
  }) as [number, number]
  return { drawn, numbered }
}

/** The bar that lies under the pointer, if bars lie far enough apart to be told from each other. */
export function barUnder<B extends Bar>(bars: readonly B[], scale: TimeScale, px: number): B | null {
  if (thinned(bars, scale).drawn > 1) return null
  const away = (bar: Bar) => Math.abs(toPx(scale, bar.atS) - px)
  const nearest = bars.reduce<B | null>((n, bar) => (!n || away(bar) < away(n) ? bar : n), null)
  return nearest && away(nearest) <= REACH_PX ? nearest : null
}

/** Bar lines with their numbers; those that are pinned have a head. */
export function paintBars<B extends Bar>(
  paper: Paper,
  scale: TimeScale,
  bars: readonly B[],
  isPinned: (bar: B) => boolean,
  colors: { line: string; ink: string; pin: string },
): void {
  const { context, heightPx } = paper
  const each = thinned(bars, scale)
  let freePx = Number.NEGATIVE_INFINITY
  for (const bar of bars) {
    const pinned = isPinned(bar)
    if (!inViewPx(scale, bar.atS, bar.atS, LEAST_NUMBER_PX)) continue
    if (!pinned && (bar.bar - 1) % each.drawn) continue
    const px = toPx(scale, bar.atS)
    context.globalAlpha = pinned ? 1 : 0.5
    context.fillStyle = pinned ? colors.pin : colors.line
    context.fillRect(Math.round(px), pinned ? 0 : heightPx - 8, pinned ? 2 : 1, heightPx)
    if (pinned) context.fillRect(Math.round(px) - 4, 0, 10, 6)
    if (px < freePx || (!pinned && (bar.bar - 1) % each.numbered)) continue
    context.globalAlpha = pinned ? 1 : 0.8
    context.fillStyle = pinned ? colors.pin : colors.ink
    context.fillText(String(bar.bar), px + 5, heightPx - 5)
    freePx = px + LEAST_NUMBER_PX - 4
  }
  context.globalAlpha = 1
}
