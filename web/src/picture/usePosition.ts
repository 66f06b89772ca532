import { usePictureDesk, useCueDesk, useTransport } from '@/desks/workbench'
import { formatClock, formatTimecode, secondsToFrame } from '@/time'
import { computed } from 'vue'

/** Where we are: the frame of the picture, and in words; in the track while that is played by itself. */
export function usePosition() {
  const { picture } = usePictureDesk()
  const { track } = useCueDesk()
  const { player, listeningTo, previewed, pictureS } = useTransport()
  const played = computed(() => previewed.value ?? (listeningTo.value === 'track' ? track.value : null))
  const frame = computed(() =>
    picture.value && pictureS.value !== null ? secondsToFrame(pictureS.value, picture.value.rate) : 0,
  )
  const timecode = computed(() => {
    if (played.value || listeningTo.value === 'track') return formatClock(player.nowS.value, 2)
    const p = picture.value
    return p ? formatTimecode(p.start_frames + frame.value, p.rate) : '--:--:--:--'
  })
  return { played, frame, timecode }
}
