import type { Cue, Track } from '@/api/client'
import { queryClient } from '@/api/queries'
import { mockServer, onPage } from '@/api/server.mock'
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, nextTick, ref, type Ref } from 'vue'
import type { CueDesk } from './cueDesk'
import { setUpFitDesk } from './fitDesk'
import type { PictureDesk } from './pictureDesk'
import type { Session } from './session'
import { setUpTransport } from './transportDesk'

const heard = { play: vi.fn(async () => undefined), stop: vi.fn(), hear: vi.fn(), isPlaying: ref(false) }
vi.mock('@/transport/usePlayer', () => ({
  usePlayer: () => ({ ...heard, nowS: ref(2) }),
}))

const rate = { num: 25, den: 1, drop_frame: false }
const track = (id: number, more: Partial<Track> = {}) =>
  ({
    id,
    title: `T${id}`,
    state: 'ready',
    rate_hz: 48000,
    channels: 2,
    n_samples: 96000,
    chart_id: 'c',
    ...more,
  }) as Track
const cue = (id: number, more: Partial<Cue> = {}) =>
  ({ id, track_id: 7, slot_start_frames: 250, slot_length_flicks: 100, asks: {}, ...more }) as Cue

/** What the server says sounds, named by what it was asked for. */
function programmeOf(path: string, id: number, query: URLSearchParams) {
  const of = /(cue|picture|track)s/.exec(path)![1]
  const more = [query.get('fit_id') && `fit ${query.get('fit_id')}`, query.get('click') === 'true' && 'click']
  const revision = [of, id, ...more].filter(Boolean).join(' ')
  const unfitted = of === 'picture' ? [2] : []
  return { of: `${of} ${id}`, revision, programme: { rate: 48000, n_samples: 96000 }, sounds: [], unfitted }
}

describe('what is played', () => {
  let cues: Ref<Cue[]>
  let tracks: Ref<Track[]>
  let release: () => void
  let fitted: number[]
  beforeEach(() => {
    cues = ref([cue(1), cue(2, { slot_start_frames: 500, slot_length_flicks: 200 })])
    tracks = ref([track(7), track(9, { rate_hz: 44100, n_samples: 44100 })])
    release = () => undefined
    fitted = [1]
    mockServer(async ({ path, method, query }) => {
      const id = Number(/(?:cues|pictures|tracks)\/(\d+)/.exec(path)?.[1])
      if (path.endsWith('/programme')) return { json: programmeOf(path, id, query) }
      const length = cues.value.find((c) => c.id === id)?.slot_length_flicks ?? 0
      if (length === 999) await new Promise<void>((resolve) => (release = resolve))
      if (method === 'POST') fitted.push(id)
      const plan = { rate: 48000, target_samples: length * 480 }
      return {
        json: {
          fit_id: id * 1000 + length,
          track_id: 7,
          plan,
          problem: null,
          is_missing: !fitted.includes(id),
        },
      }
    })
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    queryClient.clear()
  })
  function setUp() {
    const picture = ref({ id: 3, rate, length_frames: 1500, sound_track_id: 9 })
    const chosen = computed(() => cues.value[0])
    return onPage(() => {
      const session = { tracks, message: ref('') } as unknown as Session
      const cueDesk = { cue: chosen, cues, track: computed(() => tracks.value[0]) } as unknown as CueDesk
      const fitDesk = setUpFitDesk(session, cueDesk)
      return setUpTransport(session, { picture } as unknown as PictureDesk, cueDesk, fitDesk)
    })
  }
  it('is the fit of the cue, whose clock is behind the picture by where the cue starts', async () => {
    const page = setUp()
    await flushPromises()
    await flushPromises()
    expect(page.programme.value?.revision).toBe('cue 1 fit 1100')
    expect([page.lengthS.value, page.offsetS.value, page.pictureS.value]).toEqual([2, 10, 12])
    page.listeningTo.value = 'track'
    await flushPromises()
    expect(page.programme.value?.revision).toBe('track 7')
    expect([page.offsetS.value, page.pictureS.value]).toEqual([0, null])
    page.click.value = true
    await flushPromises()
    expect(page.programme.value?.revision).toBe('track 7 click')
    page.leave()
  })

  it('is the picture as the server tells it; what is not fitted of it is fitted, once', async () => {
    const page = setUp()
    page.listeningTo.value = 'picture'
    await flushPromises()
    await flushPromises()
    expect(page.programme.value?.revision).toBe('picture 3')
    expect(fitted).toEqual([1, 2])
    page.isOwnSoundOn.value = false
    await nextTick()
    expect(heard.hear).toHaveBeenLastCalledWith('own', false)
    page.leave()
  })

  it('keeps the sound of a cue that is fitted anew until the new fit is there', async () => {
    const page = setUp()
    await flushPromises()
    await flushPromises()
    cues.value = [cue(1, { slot_length_flicks: 999 }), cues.value[1]!]
    await flushPromises()
    expect(page.programme.value?.revision).toBe('cue 1 fit 1100')
    release()
    await flushPromises()
    await flushPromises()
    expect(page.programme.value?.revision).toBe('cue 1 fit 1999')
    page.leave()
  })

  it('is never the fit of another track', async () => {
    const page = setUp()
    await flushPromises()
    tracks.value = [track(8), ...tracks.value]
    cues.value = [cue(1, { track_id: 8, slot_length_flicks: 999 }), cues.value[1]!]
    await flushPromises()
    expect(page.programme.value).toBeNull()
    release()
    page.leave()
  })

  it('is a track from the list until it is stopped or another step is gone to', async () => {
    const page = setUp()
    page.preview(tracks.value[1]!)
    await nextTick()
    await flushPromises()
    await flushPromises()
    expect(page.programme.value?.revision).toBe('track 9')
    expect(heard.play).toHaveBeenLastCalledWith(0)
    page.listeningTo.value = 'picture'
    await nextTick()
    expect(page.previewed.value).toBeNull()
    page.preview(tracks.value[1]!)
    heard.isPlaying.value = true
    page.preview(tracks.value[1]!)
    expect(page.previewed.value).toBeNull()
    heard.isPlaying.value = false
    page.leave()
  })
})
