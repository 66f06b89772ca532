import { ApiError } from '@/api/client'
import { ref } from 'vue'

/** What somebody else changed while it was changed here, in words, and the way to have one's own after all. */
const faster = ref<{ words: string; useMine: () => Promise<void> } | null>(null)
/** Revisions that came of a change made here, by the thing and the revision before. */
const own = new Map<string, number>()

/** The newest revision of a thing that nobody but this page made since the one that was looked at. */
function newestOwn(of: string, revision: number): number {
  let newest = revision
  for (let next = own.get(`${of} ${newest}`); next !== undefined; next = own.get(`${of} ${newest}`))
    newest = next
  return newest
}

/** Two people at one thing: neither version is lost, and somebody says which is to stay. */
export function useFaster() {
  /**
   * Send a change of a thing (`of` names it) as it was looked at in a revision: what was changed here since is no surprise.
   * Nothing comes back while it is asked whose change is to stay.
   */
  async function send<T extends { revision: number }>(
    of: string,
    revision: number | null | undefined,
    call: (revision: number | null) => Promise<T>,
  ): Promise<T | undefined> {
    const seen = revision == null ? null : newestOwn(of, revision)
    try {
      const made = await call(seen)
      if (seen !== null && made.revision === seen + 1) own.set(`${of} ${seen}`, made.revision)
      return made
    } catch (error) {
      if (!(error instanceof ApiError) || error.code !== 'stale') throw error
      const useMine = async () => {
        faster.value = null
        await call(null)
      }
      faster.value = { words: error.message, useMine }
      return undefined
    }
  }
  return { faster, send }
}
