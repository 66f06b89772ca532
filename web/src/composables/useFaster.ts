import { ApiError } from '@/api/client'
import { ref } from 'vue'

/** What somebody else changed while it was changed here, in words, and the way to have one's own after all. */
const faster = ref<{ words: string; useMine: () => Promise<void> } | null>(null)

/** Two people at one thing: neither version is lost, and somebody says which is to stay. */
export function useFaster() {
  /** Send a change of what was looked at in a revision. Nothing comes back while it is asked whose is to stay. */
  async function send<T>(
    revision: number | null | undefined,
    call: (revision: number | null) => Promise<T>,
  ): Promise<T | undefined> {
    try {
      return await call(revision ?? null)
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
