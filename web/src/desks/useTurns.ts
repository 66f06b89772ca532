import { askAgain } from '@/api/again'
import type { Ref } from 'vue'

/** Changes of what is on a picture, sent one after the other in the order of the keys; a refusal is shown and changes nothing. */
export function useTurns(message: Ref<string>) {
  let last: Promise<unknown> = Promise.resolve()

  /** Returns what the server made of it, or nothing if it refused. */
  function keep<T>(call: () => Promise<T>): Promise<T | undefined> {
    const next = last.then(async () => {
      try {
        return await call()
      } catch (error) {
        message.value = (error as Error).message
        return undefined
      }
    })
    last = next
    return next
  }

  /** The same, and whatever may have changed with it is asked for again. */
  async function change<T>(call: () => Promise<T>): Promise<T | undefined> {
    const made = await keep(call)
    await askAboutPicture()
    return made
  }

  return {
    keep,
    change,
    /** All changes that are on their way have arrived. */
    settled: () => last,
  }
}

export type Turns = ReturnType<typeof useTurns>

/** Whatever hangs on a picture. */
export const askAboutPicture = () => askAgain('sheet', 'production', 'tracks', 'fit')

/** A picture in the address of a request. */
export const pathOf = (picture_id: number) => ({ params: { path: { picture_id } } })
