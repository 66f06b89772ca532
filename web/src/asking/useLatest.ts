/** Questions that follow a hand: one at a time, and always the latest next, so that answers keep up however fast it moves. */
export function useLatest<Wanted, Answer>(
  ask: (wanted: Wanted) => Promise<Answer>,
  take: (answer: Answer) => void,
  fail: (error: Error) => void = () => undefined,
) {
  let wanted: Wanted | null = null
  let [isAsking, round] = [false, 0]

  async function run(): Promise<void> {
    isAsking = true
    while (wanted !== null) {
      const [now, asked] = [round, wanted]
      wanted = null
      try {
        const answer = await ask(asked)
        if (now === round) take(answer)
      } catch (error) {
        if (now === round) fail(error as Error)
      }
    }
    isAsking = false
  }

  return {
    want(next: Wanted): void {
      wanted = next
      if (!isAsking) void run()
    },
    /** No answer is taken any more. */
    end(): void {
      wanted = null
      round++
    },
  }
}
