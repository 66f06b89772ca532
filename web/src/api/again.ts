import { queryClient } from './queries'

const WITHIN_MS = 25

let waiting: { keys: Set<string>; asked: Promise<void> } | null = null

/**
 * Have queries asked again, by the first part of their keys; done when the answers are there. What is wanted several times
 * within a moment is asked once: by the page that made a change, and by the event that tells all pages of it.
 */
export function askAgain(...keys: string[]): Promise<void> {
  if (!waiting) {
    const wanted = new Set<string>()
    waiting = { keys: wanted, asked: pause(WITHIN_MS).then(() => ask(wanted)) }
  }
  for (const key of keys) waiting.keys.add(key)
  return waiting.asked
}

async function ask(keys: Set<string>): Promise<void> {
  waiting = null
  await Promise.all([...keys].map((key) => queryClient.invalidateQueries({ queryKey: [key] })))
}

const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms))
