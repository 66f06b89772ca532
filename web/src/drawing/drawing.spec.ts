import type { Chart, Plan } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { heardAt, mostSpeedPct, pieces, sourceAt, sourceSpan, speedSteps, usedSpans } from './layout'
import { levelFor, parsePeaks, rangeOf } from '@/api/peaks'
import { clamped, rulerMarks, toPx, toS, zoomed } from './scale'

const scale = { startS: 10, pxPerS: 20, widthPx: 1000 }

describe('the time axis', () => {
  it('goes to pixels and back', () => {
    for (const s of [0, 10, 33.3, 60]) expect(toS(scale, toPx(scale, s))).toBeCloseTo(s, 9)
  })
  it('keeps the time under the pointer when zooming', () => {
    expect(toS(zoomed(scale, 2, 300, 200, 700), 300)).toBeCloseTo(toS(scale, 300), 9)
  })
  it('never leaves the whole, and never goes past the finest peaks', () => {
    expect(zoomed(scale, 0.001, 500, 200, 700)).toEqual({ startS: 0, pxPerS: 5, widthPx: 1000 })
    expect(zoomed(scale, 1e6, 500, 200, 700).pxPerS).toBe(700)
    expect(clamped({ ...scale, startS: 500 }, 200).startS).toBe(150)
  })
  it('labels the ruler so that labels stand apart', () => {
    const labelled = rulerMarks(scale).filter((m) => m.label)
    expect(labelled.length).toBeGreaterThan(3)
    expect(labelled[1]!.px - labelled[0]!.px).toBeGreaterThanOrEqual(84)
  })
})

function dat(values: number[]): ArrayBuffer {
  const data = new ArrayBuffer(24 + values.length * 4)
  const view = new DataView(data)
  ;[2, 0, 44100, 64, values.length, 1].forEach((v, i) => view.setInt32(i * 4, v, true))
  values.forEach((v, i) => {
    view.setInt16(24 + i * 4, -v, true)
    view.setInt16(26 + i * 4, v, true)
  })
  return data
}

describe('peaks', () => {
  const values = Array.from({ length: 3000 }, (_, i) => (i * 7919) % 30000)
  const peaks = parsePeaks(dat(values))
  it('find the extremes of any stretch on every level', () => {
    for (const level of peaks.levels) {
      const highest = Math.max(...values) / 32767
      expect(rangeOf(level, 0, 3000 * 64)[1]).toBeCloseTo(highest, 6)
    }
    expect(rangeOf(peaks.levels[0]!, 64 * 5, 64 * 6)[1]).toBeCloseTo(values[5]! / 32767, 6)
  })
  it('use the coarsest level that is still fine enough', () => {
    expect(levelFor(peaks, 64).samplesPerPoint).toBe(64)
    expect(levelFor(peaks, 1e9).samplesPerPoint).toBe(1024)
  })
  it('are zero outside the recording and refused in another form', () => {
    expect(rangeOf(peaks.levels[0]!, -500, -100)).toEqual([0, 0])
    expect(rangeOf(peaks.levels[0]!, 1e9, 2e9)).toEqual([0, 0])
    expect(() => parsePeaks(new ArrayBuffer(10))).toThrow()
  })
})

const plan = {
  rate: 100,
  target_samples: 900,
  passages: [
    {
      pins: [
        { source_samples: 0, out_samples: 0 },
        { source_samples: 400, out_samples: 400 },
      ],
    },
    {
      pins: [
        { source_samples: 1000, out_samples: 400 },
        { source_samples: 1550, out_samples: 900 },
      ],
    },
  ],
  seams: [],
} as unknown as Plan
const chart = {
  rate: 100,
  sections: [
    { start_samples: 0, end_samples: 300, label: 'A' },
    { start_samples: 300, end_samples: 1200, label: 'B' },
    { start_samples: 1200, end_samples: 1600, label: 'C' },
  ],
} as unknown as Chart

describe('the fit view', () => {
  it('cuts passages where sections change', () => {
    const found = pieces(plan, chart)
    expect(found.map((p) => p.label).join('')).toBe('ABBC')
    expect(found.map((p) => p.passage)).toEqual([0, 0, 1, 1])
    for (let i = 1; i < found.length; i++) expect(found[i]!.outInS).toBeCloseTo(found[i - 1]!.outOutS, 9)
    expect(found.at(-1)!.outOutS).toBe(9)
  })
  it('shows the speed of every stretch', () => {
    expect(speedSteps(plan).map((s) => Math.round(s.changePct))).toEqual([0, 10])
    expect(mostSpeedPct(plan)).toBeCloseTo(10, 9)
  })
  it('knows which moment of the track sounds', () => {
    expect(sourceAt(plan, 2)).toBe(2)
    expect(sourceAt(plan, 6.5)).toBeCloseTo(12.75, 9)
    expect(sourceAt(plan, 20)).toBeNull()
    expect(heardAt(plan, 2)).toBe(2)
    expect(heardAt(plan, sourceAt(plan, 6.5)!)).toBeCloseTo(6.5, 9)
    expect(heardAt(plan, 900)).toBeNull()
    const heard = pieces(plan, chart)
    expect(sourceSpan(heard, 0, 3)).toEqual([sourceAt(plan, 0), sourceAt(plan, 3)])
    expect(sourceSpan(heard, 100, 200)).toBeNull()
  })
})

describe('what is used of a track', () => {
  const piece = (sourceInS: number, sourceOutS: number, label = 'A') => ({
    ...{ sourceInS, sourceOutS, label, passage: 0 },
    ...{ outInS: 0, outOutS: 1 },
  })
  it('counts each place once, however often it is heard, section by section', () => {
    const used = [piece(8, 12, 'B'), piece(0, 4), piece(2, 8), piece(8, 10, 'B'), piece(20, 21, 'B')]
    expect(usedSpans(used)).toEqual([
      { fromS: 0, toS: 8, label: 'A' },
      { fromS: 8, toS: 12, label: 'B' },
      { fromS: 20, toS: 21, label: 'B' },
    ])
  })
})
