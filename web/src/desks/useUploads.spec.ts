import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { kindOf, useUploads } from './useUploads'

/** A request that a test answers when it wants to. */
class FakeRequest {
  static all: FakeRequest[] = []
  upload: { onprogress?: (e: object) => void } = {}
  onload?: () => void
  onerror?: () => void
  onloadend?: () => void
  status = 0
  responseText = ''
  url = ''
  isAborted = false
  open(_method: string, url: string) {
    this.url = url
    FakeRequest.all.push(this)
  }
  setRequestHeader() {}
  send() {}
  abort() {
    this.isAborted = true
    this.onloadend?.()
  }
  answer(status: number, body: unknown) {
    this.status = status
    this.responseText = typeof body === 'string' ? body : JSON.stringify(body)
    this.onload?.()
    this.onloadend?.()
  }
}
const file = (name: string) => new File(['x'], name)
const settle = () => new Promise((done) => setTimeout(done))

describe('files on their way in', () => {
  const takes = { film: vi.fn(), marks: vi.fn(() => Promise.resolve()) }
  beforeEach(() => {
    FakeRequest.all = []
    vi.stubGlobal('XMLHttpRequest', FakeRequest)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    vi.clearAllMocks()
  })

  it.each([
    ['Night.MOV', 'film'],
    ['hits.csv', 'marks'],
    ['cut.edl', 'marks'],
    ['song.wav', 'track'],
    ['no ending', 'track'],
  ])('are taken for what they seem: %s', (name, kind) => expect(kindOf(name)).toBe(kind))

  it('go one after the other, each where it belongs', async () => {
    const { uploads, add } = useUploads(() => 7, takes)
    const done = add([file('a.wav'), file('marks.srt'), file('b & c.mp4')], undefined, 3)
    await settle()
    expect(takes.marks).toHaveBeenCalledTimes(1)
    expect(FakeRequest.all.map((r) => r.url)).toEqual([
      '/api/productions/7/tracks?file_name=a.wav&version_of=3',
    ])
    FakeRequest.all[0]!.upload.onprogress!({ lengthComputable: true, loaded: 1, total: 4 })
    expect(uploads.value.map((u) => [u.name, u.progress])).toEqual([
      ['a.wav', 0.25],
      ['b & c.mp4', 0],
    ])
    FakeRequest.all[0]!.answer(201, { id: 11 })
    await settle()
    expect(FakeRequest.all[1]!.url).toBe('/api/productions/7/pictures?file_name=b+%26+c.mp4&version_of=3')
    FakeRequest.all[1]!.answer(201, { id: 12 })
    await done
    expect(takes.film.mock.calls).toEqual([[12]])
    expect(uploads.value).toEqual([])
  })

  it('stay with the reason where they are refused or nobody answers, until they are put away', async () => {
    const { uploads, add, remove } = useUploads(() => 7, takes)
    const done = add([file('bad.wav'), file('lost.wav')])
    await settle()
    FakeRequest.all[0]!.answer(422, { code: 'x', detail: 'This is no sound.' })
    await settle()
    FakeRequest.all[1]!.onerror!()
    FakeRequest.all[1]!.onloadend!()
    await done
    expect(uploads.value.map((u) => u.state)).toEqual(['refused', 'refused'])
    expect(uploads.value[0]!.reason).toBe('This is no sound.')
    expect(uploads.value[1]!.reason).not.toBe('')
    for (const { id } of uploads.value) remove(id)
    expect(uploads.value).toEqual([])
  })

  it('are stopped, also before their turn', async () => {
    const { uploads, add, remove } = useUploads(() => 7, takes)
    const done = add([file('a.wav'), file('b.wav')])
    await settle()
    remove(uploads.value[1]!.id)
    remove(uploads.value[0]!.id)
    await done
    expect(FakeRequest.all.map((r) => r.isAborted)).toEqual([true])
  })
})
