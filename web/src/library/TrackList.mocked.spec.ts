import type { Track } from '@/api/client'
import { subjectKeys } from '@/desks/workbench'
import { wholeList } from '@/fields/stubs.mock'
import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import TrackList from './TrackList.vue'
import TrackRow from './TrackRow.vue'

const outlooks = ref(new Map())
vi.mock('./useForecasts', () => ({
  useForecasts: () => ({ outlooks, progress: ref('') }),
}))

const track = (id: number, title: string) =>
  ({
    id,
    title,
    artist: '',
    tags: [],
    state: 'ready',
    chart_id: 'c',
    n_samples: 4_410_000,
    rate_hz: 44100,
    tempo_bpm: 120,
  }) as unknown as Track

describe('the library', () => {
  const tracks = ref<Track[] | undefined>([])
  const cue = ref<{ id: number; track_id: number | null } | undefined>()
  const session = { tracks, message: ref(''), deleteTrack: vi.fn(), listenAgain: vi.fn(), cancelJob: vi.fn() }
  const add = vi.fn()
  const updateCue = vi.fn<(change: object) => Promise<string | null>>(async () => null)
  const transport = { previewed: ref(null), player: { isPlaying: ref(false) }, preview: vi.fn() }
  beforeEach(() => {
    tracks.value = [track(1, 'Film sound'), track(2, 'Tide Clock'), track(3, 'First Light')]
    cue.value = { id: 9, track_id: 3 }
    session.message.value = ''
  })
  const shown = () =>
    mount(TrackList, {
      global: {
        provide: {
          [subjectKeys.session as symbol]: session,
          [subjectKeys.pictureDesk as symbol]: {
            uploads: { uploads: ref([]), add },
            pictures: ref([{ id: 1, sound_track_id: 1 }]),
          },
          [subjectKeys.cueDesk as symbol]: { cue, slotS: computed(() => 72), updateCue },
          [subjectKeys.transport as symbol]: transport,
        },
        stubs: {
          VVirtualScroll: wholeList,
          VMenu: { template: '<div><slot name="activator" :props="{}" /><slot /></div>' },
          VDialog: {
            props: ['modelValue'],
            template: '<div v-if="modelValue" role="dialog"><slot /></div>',
          },
          VCard: { template: '<div><slot /></div>' },
          VCardText: { template: '<p><slot /></p>' },
          VCardActions: { template: '<div><slot /></div>' },
          VBtn: { template: '<button><slot /></button>' },
          VList: true,
          VSpacer: true,
          TrackRow: true,
          LibraryFilter: true,
          UploadList: true,
          CatalogueDialog: true,
        },
      },
    })
  const rows = (list: ReturnType<typeof shown>) => list.findAllComponents(TrackRow)

  it('is the music first, the sound of pictures last, and one of it is chosen for the cue', async () => {
    const list = shown()
    expect(rows(list).map((r) => [r.props('track').title, r.props('isChosen')])).toEqual([
      ['Tide Clock', false],
      ['First Light', true],
      ['Film sound', false],
    ])
    updateCue.mockResolvedValueOnce('It is too short to be bent that far.')
    rows(list)[0]!.vm.$emit('choose')
    await flushPromises()
    expect(updateCue).toHaveBeenCalledWith({ track_id: 2 })
    expect(session.message.value).toBe('It is too short to be bent that far.')
    cue.value = undefined
    await flushPromises()
    expect(rows(list).map((r) => r.props('canChoose'))).toEqual([false, false, false])
    list.unmount()
  })

  it('removes a track only once somebody has said so twice', async () => {
    const list = shown()
    rows(list)[1]!.vm.$emit('remove')
    await flushPromises()
    const [keep] = list.get('[role=dialog]').findAll('button')
    expect(list.get('[role=dialog]').text()).toContain('“First Light” and its fits go from this production.')
    await keep!.trigger('click')
    expect(list.find('[role=dialog]').exists()).toBe(false)
    expect(session.deleteTrack).not.toHaveBeenCalled()
    rows(list)[1]!.vm.$emit('remove')
    await flushPromises()
    await list.get('[role=dialog]').findAll('button')[1]!.trigger('click')
    expect(session.deleteTrack).toHaveBeenCalledWith(3)
    list.unmount()
  })

  it('takes in a folder without what the system hid in it', async () => {
    const list = shown()
    const picker = list.get('[data-adds=folder]')
    const files = [new File(['x'], '.DS_Store'), new File(['x'], 'cue.wav')]
    Object.defineProperty(picker.element, 'files', { value: files })
    await picker.trigger('change')
    expect(add).toHaveBeenCalledWith([files[1]], 'track')
    list.unmount()
  })

  it('says what to do while it is empty, and that nothing is like what was looked for', async () => {
    const list = shown()
    list.getComponent({ name: 'LibraryFilter' }).vm.$emit('update:modelValue', {
      ...list.getComponent({ name: 'LibraryFilter' }).props('modelValue'),
      words: 'bagpipe',
    })
    await flushPromises()
    expect(list.text()).toContain('No track is like that.')
    tracks.value = []
    await flushPromises()
    expect(list.text()).toContain('No music yet.')
    list.unmount()
  })
})
