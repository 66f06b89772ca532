/** What became of the hits of a cue: the plan's answer beside what was spotted. No canvas, no components. */
import type { Hit, Plan } from '@/api/client'
import type { Rate } from '@/time'
import type { Scales } from './layout'
import { toPx } from './scale'

export interface LandedHit {
  /** Of the sheet, 0 where the hit is not there any more. */
  id: number
  label: string
  kind: Hit['kind']
  weight: Hit['weight']
  askedS: number
  /** Where the music meets it, or comes nearest; null where nothing of its kind sounds. */
  landedS: number | null
  sourceS: number | null
  errorFrames: number | null
  isKept: boolean
}

const perFrame = (rate: Rate) => rate.den / rate.num

/** Whether the music meets a hit, within its tolerance. */
export const isKept = (met: Plan['hits'][number]): boolean =>
  met.landed_samples != null && Math.abs(met.landed_samples - met.asked_samples) <= met.tolerance_samples

/** The hits of a plan in order of time, each with what the sheet calls it. `startFrames`: of the slot on the picture. */
export function landedHits(plan: Plan, spotted: Hit[], startFrames: number, rate: Rate): LandedHit[] {
  return plan.hits.map((met) => {
    const askedS = met.asked_samples / plan.rate
    const frame = startFrames + Math.round(askedS / perFrame(rate))
    const hit = spotted.find((h) => h.at_frames === frame && h.kind === met.kind)
    const landedS = met.landed_samples === null ? null : met.landed_samples / plan.rate
    return {
      id: hit?.id ?? 0,
      label: hit?.label ?? '',
      kind: met.kind,
      weight: met.weight,
      askedS,
      landedS,
      sourceS: met.source_samples == null ? null : met.source_samples / plan.rate,
      errorFrames: landedS === null ? null : (landedS - askedS) / perFrame(rate),
      isKept: isKept(met),
    }
  })
}

/** How far off a beat is, in frames: late above 0. */
export const offWords = (frames: number): string =>
  Math.abs(frames) < 0.05 ? '0' : `${frames > 0 ? '+' : '−'}${Math.abs(frames).toFixed(1)}`

/** How far off a hit landed, in words: to a tenth of a frame where that says something. */
export function offInWords(hit: LandedHit): string {
  if (hit.errorFrames === null) return 'nothing of its kind sounds'
  const frames = Math.abs(hit.errorFrames)
  if (frames < 0.05) return 'on the frame'
  const count = frames < 10 ? frames.toFixed(1) : Math.round(frames).toLocaleString('en')
  return `${count} ${count === '1.0' ? 'frame' : 'frames'} ${hit.errorFrames > 0 ? 'late' : 'early'}`
}

/** How many of the hits are met, in words; nothing where there are none. */
export function hitsInWords(hits: LandedHit[]): string {
  if (!hits.length) return ''
  const kept = hits.filter((h) => h.isKept).length
  if (kept === hits.length) return hits.length === 1 ? 'The hit is met.' : `All ${hits.length} hits are met.`
  return `${kept} of ${hits.length} hits met.`
}

/** A thread through the ribbons, from where a hit is heard to the place of the track that sounds there; none if it is missed. */
export function pathOfThread(hit: LandedHit, scales: Scales, topPx: number, bottomPx: number): string {
  if (!hit.isKept || hit.landedS === null || hit.sourceS === null) return ''
  const f = (n: number) => n.toFixed(1)
  const [from, to] = [f(toPx(scales.out, hit.landedS)), f(toPx(scales.source, hit.sourceS))]
  const [y1, y2] = [topPx + (bottomPx - topPx) * 0.45, topPx + (bottomPx - topPx) * 0.55]
  return `M${from} ${f(topPx)}C${from} ${f(y2)} ${to} ${f(y1)} ${to} ${f(bottomPx)}v14`
}
