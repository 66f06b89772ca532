import { describe, expect, it } from 'vitest'
import { formatClock, formatTimecode, framesToFlicks, overOrShort, secondsToFrame, timeLeft } from '@/time'

const pal = { num: 25, den: 1, drop_frame: false }
const drop = { num: 30000, den: 1001, drop_frame: true }

describe('timecode', () => {
  it('counts frames', () => {
    expect(formatTimecode(1800, pal)).toBe('00:01:12:00')
    expect(formatTimecode(0, pal)).toBe('00:00:00:00')
  })
  it('leaves out two numbers a minute but the tenth when drop-frame', () => {
    expect(formatTimecode(1799, drop)).toBe('00:00:59;29')
    expect(formatTimecode(1800, drop)).toBe('00:01:00;02')
    expect(formatTimecode(17982, drop)).toBe('00:10:00;00')
  })
  it('finds the frame that starts at a time, whatever the rounding', () => {
    for (let frame = 0; frame < 5000; frame += 7) {
      for (const rate of [pal, drop]) expect(secondsToFrame((frame * rate.den) / rate.num, rate)).toBe(frame)
    }
  })
  it('gives whole flicks', () => {
    expect(framesToFlicks(1, drop)).toBe(23543520)
    expect(framesToFlicks(1800, pal)).toBe(72 * 705_600_000)
  })
})

describe('words', () => {
  it('shows clocks', () => {
    expect(formatClock(72.5, 3)).toBe('1:12.500')
    expect(formatClock(3723)).toBe('1:02:03')
    expect(formatClock(59.9996, 3)).toBe('1:00.000')
  })
  it('says over, short or fitting', () => {
    expect(overOrShort(145, 72)).toBe('1:13 over')
    expect(overOrShort(45, 72)).toBe('0:27 short')
    expect(overOrShort(72.01, 72)).toBe('fits as it is')
  })
  it('tells the time left only when it can be told', () => {
    expect(timeLeft(1, 0.01)).toBe('')
    expect(timeLeft(10, 0.5)).toBe('10 s left')
    expect(timeLeft(100, 0.25)).toBe('5 min left')
  })
})
