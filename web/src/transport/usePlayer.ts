import { Player, type Programme } from './player'
import { onScopeDispose, readonly, ref, watch, type Ref } from 'vue'

export interface Span {
  fromS: number
  toS: number
}

const LEAST_LOOP_S = 0.1

/** The player as state: where it is and whether it plays, followed once a screen frame. A loop is played again and again. */
export function usePlayer(programme: Ref<Programme | null>) {
  const nowS = ref(0)
  const isPlaying = ref(false)
  const failure = ref('')
  const loop = ref<Span | null>(null)
  let frame = 0

  const player = new Player(ended, (error) => {
    failure.value = error.message
    settle()
  })

  function settle(): void {
    isPlaying.value = player.isPlaying
    nowS.value = player.nowS
    cancelAnimationFrame(frame)
    if (player.isPlaying) frame = requestAnimationFrame(settle)
  }

  function ended(): void {
    const span = usableLoop()
    if (span && player.nowS >= span.toS - 0.02) void play(span.fromS)
    else settle()
  }

  function usableLoop(): Span | null {
    return loop.value && loop.value.toS - loop.value.fromS >= LEAST_LOOP_S ? loop.value : null
  }

  async function play(fromS?: number, untilS?: number): Promise<void> {
    failure.value = ''
    const [from, span] = [fromS ?? player.nowS, usableLoop()]
    const isInside = span && from >= span.fromS - 0.02 && from < span.toS - 0.02
    const start = span && untilS === undefined && !isInside ? span.fromS : from
    const started = player.play(start, untilS ?? span?.toS)
    settle()
    await started
  }

  function then(act: () => void): void {
    act()
    settle()
  }

  watch(programme, (value) => then(() => player.load(value)), { immediate: true })
  onScopeDispose(() => {
    cancelAnimationFrame(frame)
    player.dispose()
  })
  return {
    nowS: readonly(nowS),
    isPlaying: readonly(isPlaying),
    failure: readonly(failure),
    loop,
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
