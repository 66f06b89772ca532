import { onScopeDispose, readonly, ref, shallowRef, watch, type Ref } from 'vue'
import type { MadeProgramme } from '@/api/client'
import type { Levels } from './loudness'
import { Player } from './player'
import type { Span } from './course'

const MONITOR_KEY = 'monitor-db'
const SOON_MS = 2000

/** The player as state: where it is and whether it plays, followed once a screen frame. A loop is played again and again. */
export function usePlayer(programme: Ref<MadeProgramme | null>) {
  const nowS = ref(0)
  const isPlaying = ref(false)
  const failure = ref('')
  const loop = ref<Span | null>(null)
  const levels = shallowRef<Levels | null>(null)
  /** How far the loudspeaker is turned down, in dB; files are not changed by it. */
  const monitorDb = ref(Number(localStorage.getItem(MONITOR_KEY)) || 0)
  let frame = 0
  /** When it was to play and there was nothing yet: what comes soon is played then. */
  let askedAtMs = -Infinity

  const player = new Player({
    ended: settle,
    failed: (error) => {
      failure.value = error.message
      settle()
    },
    levels: (measured) => (levels.value = measured),
  })

  function settle(): void {
    isPlaying.value = player.isPlaying
    nowS.value = player.nowS
    cancelAnimationFrame(frame)
    if (player.isPlaying) frame = requestAnimationFrame(settle)
  }

  async function play(fromS?: number, untilS?: number): Promise<void> {
    failure.value = ''
    if (!programme.value) askedAtMs = performance.now()
    const [from, span] = [fromS ?? player.nowS, loop.value]
    const isInside = span && from >= span.fromS - 0.02 && from < span.toS - 0.02
    const started = player.play(span && untilS === undefined && !isInside ? span.fromS : from, untilS)
    settle()
    await started
  }

  function then(act: () => void): void {
    act()
    settle()
  }

  function load(value: MadeProgramme | null): void {
    then(() => player.load(value))
    if (!value || performance.now() - askedAtMs > SOON_MS) return
    askedAtMs = -Infinity
    void play()
  }

  watch(programme, load, { immediate: true })
  watch(loop, (span) => player.setLoop(span))
  watch(
    monitorDb,
    (db) => {
      localStorage.setItem(MONITOR_KEY, String(db))
      player.setLevel('master', 10 ** (db / 20))
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    cancelAnimationFrame(frame)
    player.dispose()
  })
  return {
    nowS: readonly(nowS),
    isPlaying: readonly(isPlaying),
    failure: readonly(failure),
    loop,
    levels: readonly(levels),
    monitorDb,
    /** Whether a bus is heard. */
    hear: (bus: string, isOn: boolean) => player.setLevel(bus, isOn ? 1 : 0),
    /** Where the clock stands at this very moment, between two screen frames. */
    clockS: () => player.nowS,
    play,
    stop: () => then(() => player.stop()),
    seek: (seconds: number) => then(() => player.seek(seconds)),
    glide: (seconds: number) => then(() => player.glide(seconds)),
    scrub: (seconds: number) => then(() => player.scrub(seconds)),
    toggle: () => (player.isPlaying ? then(() => player.stop()) : void play()),
  }
}
