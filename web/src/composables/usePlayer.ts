import { Player, type Playable } from '@/sound/player'
import { onScopeDispose, readonly, ref, watch, type Ref } from 'vue'

/** The player as state: where it is and whether it plays, followed once a screen frame. */
export function usePlayer(fit: Ref<Playable | null>) {
  const nowS = ref(0)
  const isPlaying = ref(false)
  const failure = ref('')
  let frame = 0

  const player = new Player(
    () => settle(),
    (error) => {
      failure.value = error.message
      settle()
    },
  )

  function settle(): void {
    isPlaying.value = player.isPlaying
    nowS.value = player.nowS
    cancelAnimationFrame(frame)
    if (player.isPlaying) frame = requestAnimationFrame(settle)
  }

  async function play(fromS?: number, untilS?: number): Promise<void> {
    failure.value = ''
    const started = player.play(fromS ?? player.nowS, untilS)
    settle()
    await started
  }

  function stop(): void {
    player.stop()
    settle()
  }

  function seek(seconds: number): void {
    player.seek(seconds)
    settle()
  }

  watch(
    fit,
    (value) => {
      player.load(value)
      settle()
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
    play,
    stop,
    seek,
    toggle: () => (player.isPlaying ? stop() : void play()),
  }
}
