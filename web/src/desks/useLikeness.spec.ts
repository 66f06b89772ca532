import type { Schemas } from '@/api/client'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { mockServer, problem } from '@/api/server.mock'
import { useLikeness } from './useLikeness'

const file = new File(['TITLE'], 'recut.edl')
const shots = [{ old_index: 0, name: 'Moon', before: null, after: null, sure_pct: 90 }]
const found = (n: number) => ({ shots, n_carried: n, n_marks: 4 }) as Schemas['LikenessRead']

describe('which shot is which', () => {
  afterEach(() => vi.unstubAllGlobals())

  it('is asked with the file, counts anew when one is refused, and carries what was said', async () => {
    const asked = mockServer(({ query }) => ({ json: found(4 - query.getAll('refused').length) }))
    const likeness = useLikeness(ref(''))
    const carry = vi.fn()
    await likeness.ask('No reels.', '/api/pictures/3/likeness', file, { shift: 'true' }, carry)
    expect(likeness.words.value).toBe('No reels.')
    expect([asked[0]!.path, asked[0]!.query.get('file_name')]).toEqual([
      '/api/pictures/3/likeness',
      'recut.edl',
    ])
    expect(asked[0]!.query.get('shift')).toBe('true')
    await likeness.toggle(0)
    expect(asked[1]!.query.getAll('refused')).toEqual(['0'])
    expect([likeness.found.value!.n_carried, likeness.found.value!.shots]).toEqual([3, shots])
    await likeness.toggle(0)
    expect(asked[2]!.query.getAll('refused')).toEqual([])
    await likeness.toggle(0)
    likeness.carry()
    expect(carry).toHaveBeenCalledWith([0])
    expect(likeness.found.value).toBeNull()
  })
  it('says what the server says and goes away', async () => {
    mockServer(() => problem(422, 'spot_invalid', 'The file holds no shots.'))
    const message = ref('')
    const likeness = useLikeness(message)
    await likeness.ask('No reels.', '/x', file, {}, vi.fn())
    expect([message.value, likeness.found.value, likeness.words.value]).toEqual([
      'The file holds no shots.',
      null,
      '',
    ])
  })
})
