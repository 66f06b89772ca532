import type { Outlook, Track } from '@/api/client'
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import CataloguePiece from '@/library/CataloguePiece.vue'
import TrackRow from '@/library/TrackRow.vue'

const stubs = { VBtn: { template: '<button><slot /></button>' }, VProgressLinear: true, MiniWave: true }

describe('a track', () => {
  const track = {
    id: 1,
    production_id: 1,
    title: 'Hill Bus',
    file_name: 'hill.ogg',
    state: 'ready',
    job: null,
    size_bytes: 1,
    rate_hz: 100,
    channels: 2,
    n_samples: 4500,
    tempo_bpm: 138,
    meter: '4/4',
    key_name: 'F major',
    loudness_lufs: -14,
    free_time: false,
    true_peak_dbtp: -1,
    voice_pct: 0,
    chart_id: '3..1',
    artist: '',
    tags: [] as string[],
    has_cover: false,
    sections: [],
    licence: null,
    revision: 0,
  } as Track
  const props = { slotS: 72, isChosen: false, canChoose: true, isHeard: false }
  it('says how far it is short, and can be chosen', async () => {
    const row = mount(TrackRow, { props: { ...props, track }, global: { stubs } })
    expect(row.text()).toContain('0:27 short')
    const outlook = {
      suits: 62,
      seams: 2,
      grade: 'faint',
      speed_change_pct: 0.61,
      words: '2 faint, 0.6 %',
    } as Outlook
    await row.setProps({ outlook })
    expect(row.get('.outlook').text()).toBe('2 faint, 0.6 %')
    expect(row.get('.outlook').attributes('title')).toBe(
      'Suits this slot: 62 of 100 (2 seams, the worst faint, 0.61 % of speed)',
    )
    await row.get('.choose').trigger('click')
    expect(row.emitted('choose')).toHaveLength(1)
  })
  it('shows why it failed and offers to listen again', async () => {
    const job = {
      id: 4,
      kind: 'listen',
      state: 'failed',
      error: 'The file is damaged.',
      progress: 0,
      stage: '',
      elapsed_s: 1,
    }
    const failed = { ...track, state: 'failed', job } as unknown as Track
    const row = mount(TrackRow, { props: { ...props, track: failed }, global: { stubs } })
    expect(row.text()).toContain('The file is damaged.')
    expect(row.get('.choose').attributes('disabled')).toBeDefined()
    await row.get('[aria-label="Listen to Hill Bus again"]').trigger('click')
    expect(row.emitted('again')).toHaveLength(1)
  })
  it('shows what is being done and what is left', () => {
    const job = {
      id: 4,
      kind: 'listen',
      state: 'running',
      error: null,
      progress: 0.5,
      stage: 'Decoding',
      elapsed_s: 10,
    }
    const row = mount(TrackRow, {
      props: { ...props, track: { ...track, state: 'listening', job } as unknown as Track },
      global: { stubs },
    })
    expect(row.text()).toContain('Decoding · 10 s left')
  })
})

describe('a piece of the catalogue', () => {
  const terms = {
    name: 'Web and festival',
    uses: ['web', 'festival'],
    territory: 'worldwide',
    years: null,
    may_be_edited: true,
    credit: 'Skerry Music',
  }
  const piece = {
    id: 'a',
    title: 'Bright Corners',
    artist: 'The Lidgate Five',
    tags: ['plucked'],
    tempo_bpm: 132,
    meter: '4/4',
    length_s: 77.5,
    terms,
  }
  const base = { piece, use: 'web', slotS: 72, isOwned: false, isHeard: false, coming: undefined }
  const shown = (more: object) =>
    mount(CataloguePiece, { props: { ...base, ...more }, global: { stubs: { ...stubs, VIcon: true } } })

  it('says its terms, its length against the slot, and offers a licence where they allow one', async () => {
    const row = shown({})
    expect(row.text()).toContain(
      'Web and festival: web, festival · worldwide, no limit of time · credit “Skerry Music”',
    )
    expect(row.text()).toContain('0:05.5 over')
    await row.get('.do button').trigger('click')
    expect(row.emitted('license')).toHaveLength(1)
  })

  it.each([
    ['another use', { use: 'cinema' }, 'Not for cinema.'],
    [
      'music that must stay whole',
      { piece: { ...piece, terms: { ...terms, may_be_edited: false } } },
      'May not be cut',
    ],
  ])('says why not instead of offering it: %s', (_, more, words) => {
    const row = shown(more)
    expect(row.get('.do').text()).toContain(words)
    expect(row.find('.do button').exists()).toBe(false)
  })

  it('shows how far it is, can be stopped, and says what went wrong', async () => {
    const startedAtMs = performance.now() - 2000
    const row = shown({ coming: { progress: 0.5, startedAtMs, failure: '' } })
    expect(row.get('[role=status]').text()).toMatch(/Fetching, 50 % · \d s left/)
    await row.get('[aria-label="Stop licensing Bright Corners"]').trigger('click')
    expect(row.emitted('stop')).toHaveLength(1)
    await row.setProps({ coming: { progress: 0.5, startedAtMs, failure: 'It broke off.' } })
    expect(row.get('[role=alert]').text()).toBe('It broke off.')
    expect(row.get('.do button').text()).toBe('Try again')
    await row.setProps({ isOwned: true, coming: undefined })
    expect(row.get('[role=status]').text()).toContain('In your library')
  })
})
