import type { Outlook, Track } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { choices, filesOf, found, isNarrowed, noSearch } from './library'

const track = (id: number, more: Partial<Track>): Track =>
  ({
    id,
    title: `Track ${id}`,
    artist: '',
    file_name: `${id}.wav`,
    state: 'ready',
    n_samples: id * 44_100 * 30,
    rate_hz: 44_100,
    tempo_bpm: 90 + id,
    meter: '4/4',
    free_time: false,
    key_name: 'C major',
    voice_pct: 0,
    tags: [],
    ...more,
  }) as Track

const tracks = [
  track(1, { meter: '3/4', tags: ['calm'], tempo_bpm: 100 }),
  track(2, { meter: '3/4', voice_pct: 40, tempo_bpm: 96 }),
  track(3, { free_time: true, title: 'Air', tempo_bpm: 0 }),
  track(4, { state: 'listening', title: 'New one', tempo_bpm: null, n_samples: null }),
  track(5, { key_name: 'D minor', artist: 'The Slit' }),
]
const ids = (search: object, slotS = 72) =>
  found(tracks, { ...noSearch(), ...search }, slotS).map((t) => t.id)

describe('the library', () => {
  it('is whole when nothing is asked', () => {
    expect(ids({})).toEqual([1, 2, 3, 4, 5])
    expect(isNarrowed(noSearch())).toBe(false)
    expect(isNarrowed({ ...noSearch(), meter: '3/4' })).toBe(true)
  })
  it('finds a 3/4 track between 90 and 110 bpm without voice', () => {
    expect(ids({ meter: '3/4', tempoFrom: 90, tempoTo: 110, voice: 'none' })).toEqual([1])
    expect(ids({ meter: '3/4', voice: 'some' })).toEqual([2])
    expect(ids({ meter: 'free' })).toEqual([3])
  })
  it('finds words wherever they stand, all of them', () => {
    expect(ids({ words: 'slit MINOR' })).toEqual([5])
    expect(ids({ words: 'calm' })).toEqual([1])
    expect(ids({ words: 'new' })).toEqual([4])
    expect(ids({ lengthFromS: 80, lengthToS: 100 })).toEqual([3])
    expect(ids({ tag: 'calm', key: 'D minor' })).toEqual([])
  })
  it('sorts, unheard ones last', () => {
    expect(ids({ order: 'tempo' })).toEqual([5, 2, 1, 3, 4])
    expect(ids({ order: 'length' })).toEqual([1, 2, 3, 5, 4])
    expect(ids({ order: 'slot' })).toEqual([2, 3, 1, 5, 4])
    expect(ids({ order: 'title' })[0]).toBe(3)
    const outlooks = new Map([1, 2, 3].map((id) => [id, { suits: id === 2 ? 90 : 10 * id } as Outlook]))
    const suiting = found(tracks, { ...noSearch(), order: 'suits' }, 60, outlooks)
    expect(suiting.map((t) => t.id).slice(0, 3)).toEqual([2, 3, 1])
  })
  it('offers what there is', () => {
    expect(choices(tracks)).toEqual({
      meters: ['3/4', '4/4', 'free'],
      keys: ['C major', 'D minor'],
      tags: ['calm'],
    })
  })
})

describe('what is dropped', () => {
  const file = (name: string) => ({
    isFile: true,
    isDirectory: false,
    name,
    file: (done: (f: File) => void) => done(new File([], name)),
  })
  const folder = (name: string, batches: object[][]) => ({
    isFile: false,
    isDirectory: true,
    name,
    createReader: () => {
      const left = [...batches]
      return { readEntries: (done: (e: object[]) => void) => done(left.shift() ?? []) }
    },
  })
  it('holds folders with everything in them, but not hidden files', async () => {
    const inner = folder('b', [[file('3.wav')], [file('4.wav')]])
    const entries = [folder('a', [[file('2.wav'), file('1.wav'), file('.DS_Store'), inner]]), file('5.wav')]
    const transfer = { items: entries.map((e) => ({ webkitGetAsEntry: () => e })), files: [] }
    const names = (await filesOf(transfer as unknown as DataTransfer)).map((f) => f.name)
    expect(names).toEqual(['1.wav', '2.wav', '3.wav', '4.wav', '5.wav'])
  })
})
