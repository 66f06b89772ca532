/** Times on screen. Stored lengths are flicks (1/705,600,000 s), which hold every usual rate exactly. */

export const FLICKS_PER_S = 705_600_000

export interface Rate {
  num: number
  den: number
  drop_frame: boolean
}

export const flicksToSeconds = (flicks: number): number => flicks / FLICKS_PER_S

export const framesToFlicks = (frames: number, rate: Rate): number =>
  Math.round((frames * rate.den * FLICKS_PER_S) / rate.num)

export const framesToSeconds = (frames: number, rate: Rate): number => (frames * rate.den) / rate.num

/** The frame that shows at a time. The small margin keeps times that lie on a frame's start from showing the one before. */
export const secondsToFrame = (seconds: number, rate: Rate): number =>
  Math.floor((seconds * rate.num) / rate.den + 1e-6)

export const nearestFrame = (seconds: number, rate: Rate): number =>
  Math.round((seconds * rate.num) / rate.den)

/** hh:mm:ss:ff, counted as SMPTE ST 12-1 does (`;` and left-out numbers when drop-frame). */
export function formatTimecode(frames: number, rate: Rate): string {
  const fps = Math.round(rate.num / rate.den)
  let count = Math.max(0, frames)
  if (rate.drop_frame) {
    const drop = fps / 15
    const perTenMinutes = 600 * fps - 9 * drop
    const rest = count % perTenMinutes
    count +=
      9 * drop * Math.floor(count / perTenMinutes) +
      drop * Math.max(0, Math.floor((rest - drop) / (60 * fps - drop)))
  }
  const seconds = Math.floor(count / fps)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${
    rate.drop_frame ? ';' : ':'
  }${two(count % fps)}`
}

const FRAMES_PER_FOOT = 16

/** Feet and frames of 35 mm film, four perforations a frame: 112+08. */
export const formatFeet = (frames: number): string =>
  `${Math.floor(frames / FRAMES_PER_FOOT)}+${String(frames % FRAMES_PER_FOOT).padStart(2, '0')}`

export const TIME_UNITS = ['timecode', 'frames', 'feet', 'seconds'] as const
export type TimeUnit = (typeof TIME_UNITS)[number]

/** A frame of a picture in the unit that is shown; timecode counts from the picture's start, all else from its first frame. */
export function formatFrame(frames: number, rate: Rate, startFrames: number, unit: TimeUnit): string {
  if (unit === 'timecode') return formatTimecode(frames + startFrames, rate)
  if (unit === 'frames') return `${frames}f`
  if (unit === 'feet') return formatFeet(frames)
  return framesToSeconds(frames, rate).toFixed(3)
}

/** m:ss, with as many decimals as asked for; h:mm:ss from an hour up. */
export function formatClock(seconds: number, decimals = 0): string {
  const factor = 10 ** decimals
  const units = Math.round(Math.abs(seconds) * factor)
  const whole = Math.floor(units / factor)
  const minutes = Math.floor(whole / 60)
  const head =
    minutes >= 60 ? `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}` : String(minutes)
  const fraction = decimals ? '.' + String(units % factor).padStart(decimals, '0') : ''
  return `${seconds < 0 && units ? '−' : ''}${head}:${String(whole % 60).padStart(2, '0')}${fraction}`
}

/** How a track lies to its slot: '1:13 over', '0:27 short', 'fits as it is'. */
export function overOrShort(trackS: number, slotS: number): string {
  const over = trackS - slotS
  if (Math.abs(over) < 0.05) return 'fits as it is'
  const decimals = Math.abs(over) < 10 ? 1 : 0
  return `${formatClock(Math.abs(over), decimals)} ${over > 0 ? 'over' : 'short'}`
}

/** What is left of a job, in words, once enough of it is done to tell. */
export function timeLeft(elapsedS: number, progress: number): string {
  if (progress < 0.08 || elapsedS < 0.5) return ''
  const left = Math.ceil((elapsedS / progress) * (1 - progress))
  return left < 60 ? `${left} s left` : `${Math.ceil(left / 60)} min left`
}
