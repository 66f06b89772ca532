import { describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { useKeys } from './useKeys'

describe('useKeys', () => {
  it('runs actions, leaves typing alone, and goes with its scope', () => {
    const run = vi.fn()
    const scope = effectScope()
    scope.run(() => useKeys(() => [{ key: 's', shift: false, keys: 'S', words: '', run }]))
    const press = (target: EventTarget, init: KeyboardEventInit) =>
      target.dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, cancelable: true, ...init }))
    const field = document.body.appendChild(document.createElement('input'))
    press(field, { key: 's' })
    press(document.body, { key: 's', shiftKey: true })
    expect(run).not.toHaveBeenCalled()
    press(document.body, { key: 's' })
    expect(run).toHaveBeenCalledTimes(1)
    scope.stop()
    press(document.body, { key: 's' })
    expect(run).toHaveBeenCalledTimes(1)
  })
  it('leaves a list its arrows, and takes all other keys', () => {
    const [up, play] = [vi.fn(), vi.fn()]
    const scope = effectScope()
    scope.run(() =>
      useKeys(() => [
        { key: 'ArrowUp', run: up },
        { key: ' ', run: play },
      ]),
    )
    const list = document.body.appendChild(document.createElement('select'))
    for (const key of ['ArrowUp', ' '])
      list.dispatchEvent(new KeyboardEvent('keydown', { bubbles: true, cancelable: true, key }))
    expect([up.mock.calls.length, play.mock.calls.length]).toEqual([0, 1])
    scope.stop()
  })
})
