/**
 * Waveform peaks: the audiowaveform .dat form (version 2, 16 bit), read into a pyramid, so that the lowest and highest
 * value of any stretch is found in a few steps at every zoom.
 */

export interface Peaks {
  rate: number
  /** Finest first; each level's points cover FACTOR times as many samples as those of the level before. */
  levels: PeakLevel[]
}

export interface PeakLevel {
  samplesPerPoint: number
  low: Float32Array
  high: Float32Array
}

const FACTOR = 4
const COARSEST_POINTS = 256

export function parsePeaks(data: ArrayBuffer): Peaks {
  const view = new DataView(data)
  const version = data.byteLength >= 24 ? view.getInt32(0, true) : 0
  if (version !== 2 || view.getUint32(4, true) !== 0) throw new Error('The waveform file has another form.')
  const rate = view.getInt32(8, true)
  const samplesPerPoint = view.getInt32(12, true)
  const values = new Int16Array(data, 24)
  const count = Math.min(view.getUint32(16, true), values.length >> 1)
  const finest: PeakLevel = { samplesPerPoint, low: new Float32Array(count), high: new Float32Array(count) }
  for (let i = 0; i < count; i++) {
    finest.low[i] = values[2 * i]! / 32767
    finest.high[i] = values[2 * i + 1]! / 32767
  }
  const levels = [finest]
  while (levels.at(-1)!.low.length > COARSEST_POINTS) levels.push(coarser(levels.at(-1)!))
  return { rate, levels }
}

function coarser(fine: PeakLevel): PeakLevel {
  const count = Math.ceil(fine.low.length / FACTOR)
  const level = {
    samplesPerPoint: fine.samplesPerPoint * FACTOR,
    low: new Float32Array(count),
    high: new Float32Array(count),
  }
  for (let i = 0; i < count; i++) {
    let low = Infinity
    let high = -Infinity
    for (let j = i * FACTOR; j < Math.min((i + 1) * FACTOR, fine.low.length); j++) {
      low = Math.min(low, fine.low[j]!)
      high = Math.max(high, fine.high[j]!)
    }
    level.low[i] = low
    level.high[i] = high
  }
  return level
}

/** The coarsest level that is still at least as fine as a pixel of so many samples. */
export function levelFor(peaks: Peaks, samplesPerPx: number): PeakLevel {
  let best = peaks.levels[0]!
  for (const level of peaks.levels) if (level.samplesPerPoint <= samplesPerPx) best = level
  return best
}

/** Lowest and highest value in [from, to) samples, read from one level; zeros outside the recording. */
export function rangeOf(level: PeakLevel, from: number, to: number): [number, number] {
  const first = Math.max(0, Math.floor(from / level.samplesPerPoint))
  const last = Math.min(level.low.length - 1, Math.max(first, Math.ceil(to / level.samplesPerPoint) - 1))
  if (first > last || to <= 0) return [0, 0]
  let low = level.low[first]!
  let high = level.high[first]!
  for (let i = first + 1; i <= last; i++) {
    low = Math.min(low, level.low[i]!)
    high = Math.max(high, level.high[i]!)
  }
  return [low, high]
}
