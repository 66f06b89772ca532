import { sendFile, type Schemas } from '@/api/client'
import { computed, ref, type Ref } from 'vue'

type Found = Schemas['LikenessRead']
interface Asked {
  words: string
  address: string
  file: File
  query: Record<string, string | number[]>
  carry: (refused: number[]) => void
}

/** A new version whose shots no reel names: which they seem to be, shot by shot, until somebody says that it is so. */
export function useLikeness(message: Ref<string>) {
  const asked = ref<Asked | null>(null)
  const found = ref<Found | null>(null)
  const refused = ref<ReadonlySet<number>>(new Set())

  /** The rows stay as they were found first: a shot that is refused stays beside the one it was taken for. */
  async function look(): Promise<void> {
    const { address, file, query } = asked.value!
    try {
      const now = await sendFile<Found>(address, file, { ...query, refused: [...refused.value] })
      found.value = { ...now, shots: found.value?.shots ?? now.shots }
    } catch (error) {
      message.value = (error as Error).message
      leave()
    }
  }

  async function ask(
    words: string,
    address: string,
    file: File,
    query: Asked['query'],
    carry: Asked['carry'],
  ): Promise<void> {
    asked.value = { words, address, file, query, carry }
    refused.value = new Set()
    found.value = null
    await look()
  }

  /** Say of a shot of the old version that it is not the one it was taken for, or that it is. */
  async function toggle(oldIndex: number): Promise<void> {
    const next = new Set(refused.value)
    if (!next.delete(oldIndex)) next.add(oldIndex)
    refused.value = next
    await look()
  }

  function leave(): void {
    asked.value = found.value = null
  }

  function carry(): void {
    const was = asked.value
    leave()
    was?.carry([...refused.value])
  }

  return {
    words: computed(() => asked.value?.words ?? ''),
    file: computed(() => asked.value?.file ?? null),
    found,
    refused,
    ask,
    toggle,
    leave,
    carry,
  }
}
