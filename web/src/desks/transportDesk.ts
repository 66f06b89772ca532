import type { MadeProgramme, Track } from '@/api/client'
import {
  cueFitQuery,
  cueProgrammeQuery,
  pictureProgrammeQuery,
  queryClient,
  trackProgrammeQuery,
} from '@/api/queries'
import { framesToSeconds } from '@/time'
import { lengthOf } from '@/transport/parts'
import { usePlayer } from '@/transport/usePlayer'
import { useShuttle } from '@/transport/useShuttle'
import { useQueries, useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import type { CueDesk } from './cueDesk'
import type { FitDesk } from './fitDesk'
import type { PictureDesk } from './pictureDesk'
import type { Session } from './session'

/** What plays, and where it is. */
export function setUpTransport(
  { tracks }: Session,
  { picture }: PictureDesk,
  { cue, cues, track }: CueDesk,
  { heard }: FitDesk,
) {
  /** What Space plays: the fit of the cue, the track itself while its chart is put right, or the picture with its cues. */
  const listeningTo = ref<'fit' | 'track' | 'picture'>('fit')
  /** Whether the picture's own sound is heard with it. */
  const isOwnSoundOn = ref(true)
  const click = ref(false)
  /** A track played from the list, before it is chosen for anything. */
  const previewed = ref<Track | null>(null)

  const isOfPicture = computed(() => listeningTo.value === 'picture' && !previewed.value)
  const ofPicture = useQuery(
    computed(() => ({
      ...pictureProgrammeQuery(picture.value?.id ?? 0),
      enabled: isOfPicture.value && picture.value !== undefined,
    })),
  )
  /** What is not fitted yet is fitted by listening to it; the programme is told anew then. */
  useQueries({
    queries: computed(() =>
      cues.value
        .filter((c) => isOfPicture.value && ofPicture.data.value?.unfitted.includes(c.id))
        .map((c) =>
          cueFitQuery(c, c.track_id, tracks.value?.find((t) => t.id === c.track_id)?.chart_id ?? ''),
        ),
    ),
  })

  const isOfTrack = computed(() => previewed.value !== null || listeningTo.value === 'track')
  const ownTrack = computed(() => previewed.value ?? track.value)
  const ofTrack = useQuery(
    computed(() => {
      const t = ownTrack.value
      const clicks = click.value && !previewed.value
      return {
        ...trackProgrammeQuery(t?.id ?? 0, t?.chart_id ?? '', clicks),
        enabled: isOfTrack.value && t?.state === 'ready',
      }
    }),
  )

  const fitId = computed(() => (track.value && heard.value?.plan && heard.value.fit_id) || null)
  const ofCue = useQuery(
    computed(() => ({
      ...cueProgrammeQuery(cue.value?.id ?? 0, cue.value?.track_id ?? null, fitId.value ?? 0),
      enabled: listeningTo.value === 'fit' && fitId.value !== null,
    })),
  )
  const programme = computed<MadeProgramme | null>(() => {
    if (isOfTrack.value) return (ownTrack.value?.state === 'ready' && ofTrack.data.value) || null
    if (isOfPicture.value) return (picture.value && ofPicture.data.value) || null
    return (fitId.value !== null && ofCue.data.value) || null
  })
  const lengthS = computed(() => lengthOf(programme.value))
  const player = usePlayer(programme)
  watch(isOwnSoundOn, (isOn) => player.hear('own', isOn))
  /** How far the clock of what is played lies before the picture's. */
  const offsetS = computed(() => {
    if (listeningTo.value !== 'fit' || !picture.value || !cue.value) return 0
    return framesToSeconds(cue.value.slot_start_frames, picture.value.rate)
  })
  /** Where on the picture we are; nothing while a track is played by itself. */
  const pictureS = computed(() => (isOfTrack.value ? null : player.nowS.value + offsetS.value))
  watch([() => cue.value?.track_id, listeningTo], () => (previewed.value = null))

  const shuttle = useShuttle(player, () => lengthS.value)

  /** Play a track from the list, or stop it. */
  function preview(wanted: Track): void {
    const isOn = previewed.value?.id === wanted.id && player.isPlaying.value
    previewed.value = isOn ? null : wanted
    if (!isOn) void playWhenThere(wanted)
  }

  async function playWhenThere({ id, chart_id }: Track): Promise<void> {
    await queryClient.fetchQuery(trackProgrammeQuery(id, chart_id, false)).catch(() => undefined)
    await nextTick()
    if (previewed.value?.id === id) await player.play(0)
  }
  return {
    listeningTo,
    click,
    programme,
    lengthS,
    offsetS,
    pictureS,
    isOwnSoundOn,
    shuttle,
    player,
    previewed,
    preview,
  }
}
