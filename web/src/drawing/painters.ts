/** Shapes on a canvas. Positions are CSS pixels; the canvas is scaled for the screen's density once, in `prepared`. */
import type { Chart } from '@/api/client'
import { sectionColor } from '@/look/theme'
import { barLines, beatTicks } from './grid'
import { usedSpans, usualBarS, type Piece } from './layout'
import { levelFor, rangeOf, type Peaks } from '@/api/peaks'
import { toPx, toS, type TimeScale } from './scale'

export const FIGURES_FONT = "12px 'Inter Variable', sans-serif"
const LETTER_FONT = "700 14px 'Inter Variable', sans-serif"

export interface Paper {
  context: CanvasRenderingContext2D
  widthPx: number
  heightPx: number
  dark: boolean
}

export function prepared(
  canvas: HTMLCanvasElement,
  widthPx: number,
  heightPx: number,
  dark: boolean,
  font = LETTER_FONT,
): Paper | null {
  const context = canvas.getContext('2d')
  if (!context) return null
  const density = window.devicePixelRatio || 1
  const [w, h] = [Math.round(widthPx * density), Math.round(heightPx * density)]
  if (canvas.width !== w || canvas.height !== h) {
    Object.assign(canvas, { width: w, height: h })
    context.font = font // stays until the next change of size; to set it has the page's styles worked out
  }
  context.setTransform(density, 0, 0, density, 0, 0)
  context.clearRect(0, 0, widthPx, heightPx)
  return { context, widthPx, heightPx, dark }
}

/** The fitted music: every piece's waveform where it sounds and as loud as it is there, in the colour of its section. */
export function paintFitted(
  paper: Paper,
  scale: TimeScale,
  peaks: Peaks,
  pieces: Piece[],
  levelAt: (outS: number) => number,
): void {
  for (const piece of pieces) {
    const [left, right] = [toPx(scale, piece.outInS), toPx(scale, piece.outOutS)]
    if (right < 0 || left > paper.widthPx) continue
    const perS = (piece.sourceOutS - piece.sourceInS) / (piece.outOutS - piece.outInS)
    const sourceOf = (px: number) => piece.sourceInS + (toS(scale, px) - piece.outInS) * perS
    tint(paper, left, right, piece.label, 0.13)
    const levelOf = (px: number) => levelAt(toS(scale, px))
    wave(paper, peaks, left, right, sourceOf, sectionColor(piece.label, paper.dark), 1, levelOf)
  }
  for (const { outInS, outOutS, label } of pieces) letter(paper, scale, outInS, outOutS, label)
}

/** A section's letter at its beginning, or at the edge of the view, where there is room for it. */
function letter(paper: Paper, scale: TimeScale, fromS: number, untilS: number, label: string): void {
  const px = Math.max(4, toPx(scale, fromS) + 5)
  if (toPx(scale, untilS) - px < 8 || px > paper.widthPx) return
  paper.context.fillStyle = sectionColor(label, paper.dark)
  paper.context.fillText(label, px, 17)
}

/** The whole track: sections tinted, what is used in full colour, the rest faint. */
export function paintSource(paper: Paper, scale: TimeScale, peaks: Peaks, chart: Chart, used: Piece[]): void {
  const sourceOf = (px: number) => toS(scale, px)
  const start = toPx(scale, 0)
  const end = toPx(scale, chart.n_samples / chart.rate)
  const grey = paper.dark ? '#76807f' : '#9a9483'
  wave(paper, peaks, start, end, sourceOf, grey, 0.45)
  for (const section of chart.sections) {
    tint(
      paper,
      toPx(scale, section.start_samples / chart.rate),
      toPx(scale, section.end_samples / chart.rate),
      section.label,
      0.1,
    )
  }
  for (const { fromS, toS: untilS, label } of usedSpans(used))
    wave(
      paper,
      peaks,
      toPx(scale, fromS),
      toPx(scale, untilS),
      sourceOf,
      sectionColor(label, paper.dark),
      0.95,
    )
  paintBars(paper, scale, chart)
}

/** The letters of a track's sections. */
export function paintLetters(paper: Paper, scale: TimeScale, chart: Chart): void {
  for (const { start_samples, end_samples, label } of chart.sections)
    letter(paper, scale, start_samples / chart.rate, end_samples / chart.rate, label)
}

function paintBars(paper: Paper, scale: TimeScale, chart: Chart): void {
  const barPx = usualBarS(chart) * scale.pxPerS
  if (barPx < 7) return
  paper.context.fillStyle = paper.dark ? '#e8dfcf' : '#23262a'
  chart.beats.forEach((beat, i) => {
    const isBar = chart.beat_in_bar[i] === 0
    if (!isBar && barPx < 70) return
    const px = toPx(scale, beat / chart.rate)
    if (px < 0 || px > paper.widthPx) return
    paper.context.globalAlpha = isBar ? 0.5 : 0.25
    paper.context.fillRect(Math.round(px), paper.heightPx - (isBar ? 7 : 4), 1, isBar ? 7 : 4)
  })
  paper.context.globalAlpha = 1
}

function tint(paper: Paper, left: number, right: number, label: string, alpha: number): void {
  paper.context.globalAlpha = alpha
  paper.context.fillStyle = sectionColor(label, paper.dark)
  paper.context.fillRect(left, 0, right - left, paper.heightPx)
  paper.context.globalAlpha = 1
}

function wave(
  paper: Paper,
  peaks: Peaks,
  leftPx: number,
  rightPx: number,
  sourceOf: (px: number) => number,
  color: string,
  alpha: number,
  levelOf: (px: number) => number = () => 1,
): void {
  const { context, heightPx } = paper
  const first = Math.max(0, Math.floor(leftPx))
  const last = Math.min(paper.widthPx, Math.ceil(rightPx))
  const samplesPerPx = Math.abs(sourceOf(first + 1) - sourceOf(first)) * peaks.rate
  const level = levelFor(peaks, samplesPerPx)
  const middle = heightPx / 2
  const reach = heightPx / 2 - 6
  context.globalAlpha = alpha
  context.fillStyle = color
  for (let px = first; px < last; px++) {
    const from = sourceOf(Math.max(px, leftPx)) * peaks.rate
    const to = sourceOf(Math.min(px + 1, rightPx)) * peaks.rate
    const [low, high] = rangeOf(level, from, to)
    const heardPx = reach * levelOf(px)
    const top = middle - high * heardPx
    context.fillRect(px, top, 1, Math.max(1, (high - low) * heardPx)) // far cheaper than to fill a path of them
  }
  context.globalAlpha = 1
}

/** Bar lines through the whole waveform, and beats where there is room. */
export function paintTrackGrid(paper: Paper, scale: TimeScale, chart: Chart): void {
  const { context, heightPx } = paper
  context.fillStyle = paper.dark ? '#e8dfcf' : '#23262a'
  for (const line of barLines(chart, scale)) {
    context.globalAlpha = line.isPinned ? 0.75 : 0.32
    context.fillRect(Math.round(line.px), 0, 1, heightPx)
  }
  context.globalAlpha = chart.free_time ? 0.32 : 0.14
  for (const px of beatTicks(chart, scale)) context.fillRect(Math.round(px), 0, 1, heightPx)
  context.globalAlpha = 1
}
