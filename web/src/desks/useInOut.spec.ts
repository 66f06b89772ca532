import type { Picture } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { useInOut } from './useInOut'
import { kindOf } from './useUploads'

const picture = ref({
  id: 1,
  rate: { num: 25, den: 1, drop_frame: false },
  length_frames: 1800,
} as Picture)

describe('in and out', () => {
  it('are a span as soon as one of them is set, and never run backwards', () => {
    const marked = useInOut(picture)
    expect(marked.frames.value).toBeNull()
    marked.setIn(100)
    expect(marked.frames.value).toEqual([100, 1800])
    marked.setOut(150)
    expect(marked.span.value).toEqual({ fromS: 4, toS: 6 })
    marked.setIn(200)
    expect(marked.frames.value).toEqual([200, 1800])
    marked.setOut(50)
    expect(marked.frames.value).toEqual([0, 50])
    marked.clear()
    expect(marked.frames.value).toBeNull()
  })
})

describe('what a file is taken for', () => {
  it.each([
    ['Reel 1.MOV', 'film'],
    ['cut v3.edl', 'marks'],
    ['lines.srt', 'marks'],
    ['Song.flac', 'track'],
    ['no ending', 'track'],
  ])('%s: %s', (name, kind) => expect(kindOf(name)).toBe(kind))
})
