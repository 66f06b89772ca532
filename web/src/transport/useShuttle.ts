import { onScopeDispose, readonly, ref } from 'vue'

interface Plays {
  readonly nowS: { readonly value: number }
  readonly isPlaying: { readonly value: boolean }
  play(): Promise<void>
  stop(): void
  glide(seconds: number): void
}

const SPEEDS = [1, 2, 4, 8]

/**
 * Running through the picture both ways: each press is a step faster that way, or back from the other one. At normal speed
 * forward it is playing, with sound; every other speed is silent.
 */
export function useShuttle(player: Plays, endS: () => number) {
  /** 0 while it does not run; below zero backwards. */
  const speed = ref(0)
  let frame = 0
  let lastMs = 0

  function tick(nowMs: number): void {
    if (player.isPlaying.value) return letGo() // somebody pressed play
    const next = player.nowS.value + (speed.value * (nowMs - lastMs)) / 1000
    lastMs = nowMs
    player.glide(next)
    if (next <= 0 || next >= endS()) return stop()
    frame = requestAnimationFrame(tick)
  }

  function run(to: number): void {
    cancelAnimationFrame(frame)
    speed.value = to
    if (to === 0) player.stop()
    else if (to === 1) void player.play()
    else {
      player.stop()
      lastMs = performance.now()
      frame = requestAnimationFrame(tick)
    }
  }

  /** One step faster forwards (or backwards); from the other direction to a standstill first. */
  function push(back: boolean): void {
    const sign = back ? -1 : 1
    const now = speed.value || (player.isPlaying.value ? 1 : 0)
    if (now * sign < 0) return run(0)
    const step = SPEEDS.find((s) => s > Math.abs(now)) ?? SPEEDS.at(-1)!
    run(sign * step)
  }

  function stop(): void {
    run(0)
  }

  /** Something else took the player over. */
  function letGo(): void {
    cancelAnimationFrame(frame)
    speed.value = 0
  }

  onScopeDispose(() => cancelAnimationFrame(frame))
  return { speed: readonly(speed), push, stop, letGo }
}
