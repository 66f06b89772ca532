/** A click on the beats of a tempo while the picture plays, ahead of time by the sound card's clock. */
import type { Click } from '@/drawing/bars'
import { onScopeDispose, watch, type Ref } from 'vue'

const AHEAD_S = 0.3 // more than the way to any loudspeaker takes
const EVERY_MS = 50
const [BAR_HZ, BEAT_HZ] = [1650, 1100]
const [BAR_LEVEL, BEAT_LEVEL] = [0.5, 0.28]
const LENGTH_S = 0.03

interface Clock {
  isPlaying: Readonly<Ref<boolean>>
  clockS: () => number
}

/** What is to be clicked from a moment up to another. */
export type Clicks = (fromS: number, toS: number) => Click[]

/** Clicks while `isOn` and the clock runs on. A jump of the clock begins anew from where it went. */
export function useClick(clicks: Ref<Clicks | null>, isOn: Ref<boolean>, clock: Clock): void {
  let context: AudioContext | null = null
  let timer = 0
  let untilS = -1
  let lastS = -1

  function stop(): void {
    clearInterval(timer)
    timer = 0
    untilS = lastS = -1
  }
  function strike(inS: number, isBar: boolean): void {
    // The clock says what is heard now; what is struck now is heard when it has come out.
    const at = context!.currentTime + Math.max(0, inS - (context!.outputLatency || 0))
    const [tone, level] = [context!.createOscillator(), context!.createGain()]
    tone.frequency.value = isBar ? BAR_HZ : BEAT_HZ
    level.gain.setValueAtTime(isBar ? BAR_LEVEL : BEAT_LEVEL, at)
    level.gain.exponentialRampToValueAtTime(0.001, at + LENGTH_S)
    tone.connect(level).connect(context!.destination)
    tone.start(at)
    tone.stop(at + LENGTH_S)
  }
  function ahead(): void {
    const now = clock.clockS()
    if (!clicks.value) return
    const isJump = now < lastS || now > lastS + 10 * AHEAD_S
    const from = isJump ? now : Math.max(now, untilS)
    lastS = now
    untilS = Math.max(from, now + AHEAD_S)
    for (const click of clicks.value(from, untilS)) strike(click.atS - now, click.isBar)
  }
  watch(
    [isOn, clock.isPlaying, clicks],
    ([on, plays, has]) => {
      stop()
      if (!on || !plays || !has) return
      context ??= new AudioContext()
      void context.resume()
      timer = window.setInterval(ahead, EVERY_MS)
      ahead()
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    stop()
    void context?.close()
  })
}
