import { fetchSound, type FetchedSound } from '@/api/client'
import type { Part } from './parts'

const CHUNK_S = 2
const MOST_CHUNKS = 96
const DRAFT_HELD_MS = 1500 // by then the print may have come

interface Chunk {
  sound: Promise<FetchedSound>
  url: string
  abort: AbortController
}

/** The sounds of parts, fetched in stretches of two seconds and kept for a while: of what has not changed none is fetched twice. */
export class Sounds {
  private chunks = new Map<string, Chunk>()

  /** The stretch in which a sample of a part lies. */
  numberAt(part: Part, sample: number): number {
    return Math.max(0, Math.floor(sample / (CHUNK_S * part.rate)))
  }

  /** The first sample of a stretch. */
  startOf(part: Part, number: number): number {
    return number * CHUNK_S * part.rate
  }

  fetch(part: Part, number: number, afterDraft = false): Promise<FetchedSound> {
    const { url, rate, channels } = part
    const key = `${url} ${rate} ${number} ${afterDraft}`
    const known = this.chunks.get(key)
    if (known) return known.sound
    const start = this.startOf(part, number)
    const stop = Math.min(start + CHUNK_S * rate, part.clip.n_samples)
    const abort = new AbortController()
    const sound = fetchSound({ url, rate, channels, start, stop, afterDraft }, abort.signal)
    const forget = () => this.chunks.get(key)?.sound === sound && this.chunks.delete(key)
    sound.then(({ isDraft }) => isDraft && setTimeout(forget, DRAFT_HELD_MS)).catch(forget)
    this.chunks.set(key, { sound, url, abort })
    if (this.chunks.size > MOST_CHUNKS) this.chunks.delete(this.chunks.keys().next().value!)
    return sound
  }

  /** Have a stretch ready; that it cannot be had is said when it is needed. */
  ahead(part: Part, number: number, afterDraft = false): void {
    this.fetch(part, number, afterDraft).catch(() => undefined)
  }

  /** Forget, and stop asking for, all sounds but those of some parts. */
  keepOnly(parts: readonly Part[]): void {
    const urls = new Set(parts.map((p) => p.url))
    for (const [key, { url, abort }] of this.chunks) {
      if (urls.has(url)) continue
      this.chunks.delete(key)
      abort.abort()
    }
  }
}
