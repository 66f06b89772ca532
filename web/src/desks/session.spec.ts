import type { Cue } from '@/api/client'
import { queryClient } from '@/api/queries'
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { mockServer, onPage, problem, type Asked } from '@/api/server.mock'
import { useFaster } from '@/asking/useFaster'
import { setUpCueDesk } from './cueDesk'
import { setUpPictureDesk } from './pictureDesk'
import { setUpSession } from './session'

const rate = { num: 25, den: 1, drop_frame: false }
const picture = { id: 1, name: 'Film', rate, length_frames: 90, start_frames: 0 }
let cue: Cue
let refuse: ReturnType<typeof problem> | null
let productions: { id: number; name: string; is_put_away: boolean }[]

function answer({ method, path, body }: Asked) {
  if (path === '/api/productions' && method === 'POST') {
    const made = { id: 2, name: (body as { name: string }).name, is_put_away: false }
    productions.push(made)
    return { json: made }
  }
  if (path === '/api/productions') return { json: productions }
  if (path === '/api/productions/2' && method === 'PATCH') {
    productions = productions.map((p) => (p.id === 2 ? { ...p, ...(body as object) } : p))
    return { json: productions[1] }
  }
  if (path === '/api/productions/2')
    return { json: { id: 2, name: 'Field', pictures: [], cues: [], history: { undo: null, redo: null } } }
  if (path.endsWith('/tracks') || path.endsWith('/refusals')) return { json: [] }
  if (path === '/api/productions/1' || path.endsWith('do')) {
    return {
      json: { id: 1, name: 'Night', pictures: [picture], cues: [cue], history: { undo: 'it', redo: null } },
    }
  }
  if (method === 'PATCH') {
    const { revision } = body as { revision: number | null }
    if (refuse && revision !== null) return refuse
    cue = { ...cue, ...(body as object), revision: cue.revision + 1 }
    return { json: cue }
  }
  return { json: {} }
}

describe('the session', () => {
  let asked: Asked[]
  beforeEach(() => {
    cue = {
      id: 5,
      picture_id: 1,
      slot_start_frames: 0,
      slot_length_flicks: 1,
      track_id: null,
      revision: 3,
    } as Cue
    refuse = null
    productions = [{ id: 1, name: 'Night', is_put_away: false }]
    localStorage.clear()
    asked = mockServer(answer)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    queryClient.clear()
    useFaster().faster.value = null
  })
  const open = async () => {
    const session = onPage(() => {
      const production = setUpSession()
      const pictures = setUpPictureDesk(production)
      return { ...production, ...pictures, ...setUpCueDesk(production, pictures) }
    })
    await flushPromises()
    await flushPromises()
    return session
  }
  const sent = () => asked.filter((a) => a.method === 'PATCH').map((a) => a.body)

  it('shows the first picture and cue, and changes the cue one step after the other', async () => {
    const session = await open()
    expect([session.picture.value?.name, session.cue.value?.id]).toEqual(['Film', 5])
    const steps = [10, 20, 30].map((slot_length_flicks) => session.updateCue({ slot_length_flicks }))
    expect(await Promise.all(steps)).toEqual([null, null, null])
    expect(sent()).toEqual([
      { slot_length_flicks: 10, revision: 3 },
      { slot_length_flicks: 20, revision: 4 },
      { slot_length_flicks: 30, revision: 5 },
    ])
    session.leave()
  })
  it('opens a production that is made, stays with it, and goes back to another when it is put away', async () => {
    const session = await open()
    await session.addProduction('Field')
    await flushPromises()
    expect([session.productionId.value, session.picture.value]).toEqual([2, undefined])
    const again = await open()
    expect(again.productionId.value).toBe(2)
    await again.updateProduction(2, { is_put_away: true })
    await flushPromises()
    expect(again.productionId.value).toBe(1)
    expect(again.productions.value?.map((p) => p.is_put_away)).toEqual([false, true])
    session.leave()
    again.leave()
  })
  it('says a refusal in words, and asks whose change stays when somebody was faster', async () => {
    const session = await open()
    refuse = problem(422, 'brief_invalid', 'A cue has to start on the picture.')
    expect(await session.updateCue({ start: '9:00' })).toBe('A cue has to start on the picture.')
    refuse = problem(409, 'stale', 'it is now A; you asked for B')
    expect(await session.updateCue({ name: 'B' })).toBeNull()
    const { faster } = useFaster()
    expect(faster.value!.words).toBe('it is now A; you asked for B')
    await faster.value!.useMine()
    expect(cue.name).toBe('B')
    session.leave()
  })
  it('undoes, and passes on what cannot be done', async () => {
    const session = await open()
    await session.undo()
    expect(asked.some((a) => a.path === '/api/productions/1/undo')).toBe(true)
    expect(await session.attempt(() => Promise.reject(new Error('The disk is full.')))).toBe(false)
    expect(session.message.value).toBe('The disk is full.')
    session.message.value = ''
    session.leave()
  })
})
