/** The library of a production: which tracks a search finds, and in what order. */
import type { Outlook, Track } from '@/api/client'

export type Order = 'added' | 'title' | 'tempo' | 'length' | 'slot' | 'suits'

export interface Search {
  words: string
  tempoFrom: number | null
  tempoTo: number | null
  lengthFromS: number | null
  lengthToS: number | null
  meter: string
  key: string
  tag: string
  voice: '' | 'none' | 'some'
  order: Order
}

export const noSearch = (): Search => ({
  words: '',
  tempoFrom: null,
  tempoTo: null,
  lengthFromS: null,
  lengthToS: null,
  meter: '',
  key: '',
  tag: '',
  voice: '',
  order: 'added',
})

const VOICE_FROM_PCT = 10 // below it, the ear’s slips are all there may be

export const lengthS = (track: Track): number => (track.n_samples ?? 0) / (track.rate_hz ?? 1)

/** Whether anything but the order narrows the list. */
export function isNarrowed(search: Search): boolean {
  return Object.entries(search).some(([name, value]) => name !== 'order' && value !== '' && value !== null)
}

/** Tracks that were not heard yet are found by their words alone. */
export function found(
  tracks: Track[],
  search: Search,
  slotS: number,
  outlooks: Map<number, Outlook> = new Map(),
): Track[] {
  const words = search.words.toLowerCase().split(/\s+/).filter(Boolean)
  const kept = tracks.filter((t) => {
    const text = [t.title, t.artist, t.file_name, t.key_name, t.meter, ...t.tags].join(' ').toLowerCase()
    return words.every((w) => text.includes(w)) && fits(t, search)
  })
  return search.order === 'added' ? kept : [...kept].sort(by(search.order, slotS, outlooks))
}

function fits(t: Track, s: Search): boolean {
  const asked = s.tempoFrom ?? s.tempoTo ?? s.lengthFromS ?? s.lengthToS
  if (t.state !== 'ready') return asked === null && !s.meter && !s.key && !s.tag && !s.voice
  const tempo = t.free_time ? null : t.tempo_bpm
  return (
    within(tempo, s.tempoFrom, s.tempoTo) &&
    within(lengthS(t), s.lengthFromS, s.lengthToS) &&
    (!s.meter || (t.free_time ? 'free' : t.meter) === s.meter) &&
    (!s.key || t.key_name === s.key) &&
    (!s.tag || t.tags.includes(s.tag)) &&
    (!s.voice || ((t.voice_pct ?? 0) >= VOICE_FROM_PCT ? 'some' : 'none') === s.voice)
  )
}

function within(value: number | null | undefined, from: number | null, to: number | null): boolean {
  if (from === null && to === null) return true
  if (value === null || value === undefined) return false
  return value >= (from ?? -Infinity) - 0.5 && value <= (to ?? Infinity) + 0.5
}

function by(order: Order, slotS: number, outlooks: Map<number, Outlook>): (a: Track, b: Track) => number {
  if (order === 'title') return (a, b) => a.title.localeCompare(b.title, undefined, { numeric: true })
  const value = (t: Track): number => {
    if (t.state !== 'ready') return Infinity
    if (order === 'suits') return -(outlooks.get(t.id)?.suits ?? -1)
    if (order === 'tempo') return t.free_time ? Infinity : (t.tempo_bpm ?? Infinity)
    return order === 'length' ? lengthS(t) : Math.abs(lengthS(t) - slotS)
  }
  return (a, b) => value(a) - value(b) || a.id - b.id
}

/** What there is to choose from, each once, in order. */
export function choices(tracks: Track[]): { meters: string[]; keys: string[]; tags: string[] } {
  const ready = tracks.filter((t) => t.state === 'ready')
  const sorted = (values: (string | null)[]) =>
    [...new Set(values.filter((v): v is string => !!v))].sort((a, b) => a.localeCompare(b))
  return {
    meters: sorted(ready.map((t) => (t.free_time ? 'free' : t.meter))),
    keys: sorted(ready.map((t) => t.key_name)),
    tags: sorted(ready.flatMap((t) => t.tags)),
  }
}

interface Entry {
  isFile: boolean
  isDirectory: boolean
  name: string
}

/** All files of what was dropped, folders with everything in them; hidden files are left out. */
export async function filesOf(transfer: DataTransfer): Promise<File[]> {
  // Entries must be asked for before anything is waited for: the list is emptied after the event.
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.() ?? null)
  if (entries.every((e) => e === null)) return [...transfer.files]
  const nested = await Promise.all(entries.map((e) => (e ? filesUnder(e) : [])))
  return nested.flat()
}

async function filesUnder(entry: Entry): Promise<File[]> {
  if (entry.name.startsWith('.')) return []
  if (entry.isFile) {
    return [
      await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)),
    ]
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const files: File[] = []
  for (;;) {
    const some = await new Promise<Entry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (!some.length) return files
    for (const child of some.sort((a, b) => a.name.localeCompare(b.name)))
      files.push(...(await filesUnder(child)))
  }
}
