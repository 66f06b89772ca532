/** What ties the fitted music to the track it comes from: ribbons and threads, on a canvas. */
import type { Seam } from '@/api/client'
import { sectionColor } from '@/look/theme'
import { pathOfThread, type LandedHit } from './hits'
import { ribbonPath, type Piece, type Scales } from './layout'
import type { Paper } from './painters'
import { inViewPx, toPx, type TimeScale } from './scale'

const LEAST_PX = 2 // of what is seen of a ribbon

/** Those that can be seen anywhere. */
export const seenRibbons = (scales: Scales, pieces: readonly Piece[]): Piece[] =>
  pieces.filter(
    (p) =>
      inViewPx(scales.out, p.outInS, p.outOutS, LEAST_PX) ||
      inViewPx(scales.source, p.sourceInS, p.sourceOutS, LEAST_PX),
  )

/** Every piece from where it is heard, above, to where it comes from, below; the one under the pointer stands out. */
export function paintRibbons(
  paper: Paper,
  scales: Scales,
  pieces: readonly Piece[],
  pointed: Piece | null,
): void {
  const { context, heightPx, dark } = paper
  context.lineWidth = 1
  for (const piece of seenRibbons(scales, pieces)) {
    const outline = new Path2D(ribbonPath(scales, piece, 0, heightPx))
    context.fillStyle = context.strokeStyle = sectionColor(piece.label, dark)
    context.globalAlpha = piece === pointed ? 0.5 : 0.3
    context.fill(outline)
    context.globalAlpha = 0.75
    context.stroke(outline)
  }
  context.globalAlpha = 1
}

/** Half of what a stitch takes, and where its middle lies below the top of the ribbons. */
export const STITCH_PX = 14
const STITCH_TOP_PX = 17
/** Arms in the order they fill: four for even, two for faint, none for plain. */
const ARMS = [
  [-7, -7],
  [7, 7],
  [7, -7],
  [-7, 7],
] as const
const ARMS_FILLED = { even: 4, faint: 2, plain: 0 }

/** Seams as stitches, crossed arms on the edge between two ribbons: the more of them are full, the better the join. */
export function paintStitches(
  { context }: Paper,
  scale: TimeScale,
  seams: readonly Seam[],
  rate: number,
  colors: { ground: string; full: string; bare: string },
): void {
  for (const seam of seams) {
    const atS = seam.out_samples / rate
    if (!inViewPx(scale, atS, atS, STITCH_PX)) continue
    context.save()
    context.translate(toPx(scale, atS), STITCH_TOP_PX)
    paintStitch(context, ARMS_FILLED[seam.grade], colors)
    context.restore()
  }
}

function paintStitch(
  context: CanvasRenderingContext2D,
  filled: number,
  colors: { ground: string; full: string; bare: string },
): void {
  context.globalAlpha = 0.75
  context.fillStyle = colors.ground
  context.beginPath()
  context.arc(0, 0, STITCH_PX, 0, 2 * Math.PI)
  context.fill()
  context.globalAlpha = 1
  context.lineCap = 'round'
  ARMS.forEach(([x, y], arm) => {
    const isFull = arm < filled
    context.strokeStyle = isFull ? colors.full : colors.bare
    context.lineWidth = isFull ? 4 : 1.3
    context.setLineDash(isFull ? [] : [2, 2.4])
    context.beginPath()
    context.moveTo(0, 0)
    context.lineTo(x, y)
    context.stroke()
  })
}

/** The topmost ribbon that a point of the lane lies in. */
export function ribbonAt(
  context: CanvasRenderingContext2D,
  scales: Scales,
  pieces: readonly Piece[],
  at: { x: number; y: number },
  heightPx: number,
): Piece | null {
  const seen = seenRibbons(scales, pieces).reverse()
  return (
    seen.find((p) => context.isPointInPath(new Path2D(ribbonPath(scales, p, 0, heightPx)), at.x, at.y)) ??
    null
  )
}

/** Where lanes lie between which a thread runs: from below the flags to the end of the fitted music, and through the ribbons. */
export interface ThreadLanes {
  fromPx: number
  fittedPx: number
  ribbonsPx: number
}

/** Hits: straight to where each is asked for, then to the place of the track that meets it; dashed where it is missed. */
export function paintThreads(
  paper: Paper,
  scales: Scales,
  hits: readonly LandedHit[],
  lanes: ThreadLanes,
  colors: { kept: string; missed: string },
): void {
  const { context } = paper
  context.lineWidth = 1
  for (const hit of hits) {
    context.strokeStyle = hit.isKept ? colors.kept : colors.missed
    context.setLineDash(hit.isKept ? [] : [4, 4])
    const px = toPx(scales.out, hit.askedS)
    const down = `M${px} ${lanes.fromPx}V${lanes.fittedPx}`
    context.stroke(
      new Path2D(down + pathOfThread(hit, scales, lanes.fittedPx, lanes.fittedPx + lanes.ribbonsPx)),
    )
  }
  context.setLineDash([])
}
