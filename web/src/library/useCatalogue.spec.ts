import type { Piece } from '@/api/client'
import { queryClient } from '@/api/queries'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { useCatalogue } from './useCatalogue'

const piece = { id: 'slow-orbit', title: 'Slow Orbit' } as Piece

/** A body that gives one chunk at a time, when it is told to. */
function streamed(signal: AbortSignal) {
  let send!: ReadableStreamDefaultController<Uint8Array>
  const body = new ReadableStream<Uint8Array>({ start: (c) => void (send = c) })
  signal.addEventListener('abort', () => send.error(new DOMException('stopped', 'AbortError')))
  const encode = (text: string) => send.enqueue(new TextEncoder().encode(text))
  return { response: { ok: true, status: 200, body } as Response, encode, end: () => send.close() }
}

function setUp() {
  let catalogue!: ReturnType<typeof useCatalogue>
  mount(
    defineComponent(() => {
      catalogue = useCatalogue(
        () => 3,
        () => undefined,
        () => false,
      )
      return () => h('div')
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient }]] } },
  )
  return catalogue
}

describe('licensing a piece', () => {
  afterEach(() => vi.unstubAllGlobals())

  it('follows the file line by line, however the lines are cut', async () => {
    let stream!: ReturnType<typeof streamed>
    const asked: [string, RequestInit][] = []
    vi.stubGlobal('fetch', (url: string, init: RequestInit) => {
      asked.push([url, init])
      stream = streamed(init.signal!)
      return Promise.resolve(stream.response)
    })
    const catalogue = setUp()
    const done = catalogue.license(piece, 'web')
    await flushPromises()
    expect(asked[0]![0]).toBe('/api/productions/3/catalogue/slow-orbit')
    expect(asked[0]![1].body).toBe('{"use":"web"}')
    stream.encode('{"progress": 0.25}\n{"prog')
    await flushPromises()
    expect(catalogue.coming.value.get(piece.id)?.progress).toBe(0.25)
    stream.encode('ress": 0.75}\n')
    await flushPromises()
    expect(catalogue.coming.value.get(piece.id)?.progress).toBe(0.75)
    stream.encode('{"track_id": 8}\n')
    stream.end()
    await done
    expect(catalogue.coming.value.size).toBe(0)
  })

  it('keeps the reason when the file breaks off, and forgets it at the next try', async () => {
    vi.stubGlobal('fetch', (_: string, init: RequestInit) => {
      const stream = streamed(init.signal!)
      stream.encode('{"problem": {"code": "catalogue_failed", "status": 502, "detail": "It broke off."}}\n')
      stream.end()
      return Promise.resolve(stream.response)
    })
    const catalogue = setUp()
    await catalogue.license(piece, 'web')
    expect(catalogue.coming.value.get(piece.id)?.failure).toBe('It broke off.')
    vi.stubGlobal('fetch', () =>
      Promise.resolve({
        ok: false,
        status: 403,
        json: () => Promise.resolve({ code: 'licence_refused', detail: 'Not for cinema.' }),
      }),
    )
    await catalogue.license(piece, 'cinema')
    expect(catalogue.coming.value.get(piece.id)?.failure).toBe('Not for cinema.')
  })

  it('leaves nothing when it is stopped', async () => {
    vi.stubGlobal('fetch', (_: string, init: RequestInit) => Promise.resolve(streamed(init.signal!).response))
    const catalogue = setUp()
    const done = catalogue.license(piece, 'web')
    await flushPromises()
    catalogue.stop(piece.id)
    await done
    expect(catalogue.coming.value.size).toBe(0)
  })
})
