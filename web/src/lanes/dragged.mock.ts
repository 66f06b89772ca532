import type { DOMWrapper } from '@vue/test-utils'
import { vi } from 'vitest'

/** Take hold of something, move it so many pixels, and let it go. */
export async function dragged(held: DOMWrapper<Element>, byPx: number): Promise<void> {
  ;(held.element as HTMLElement).setPointerCapture = vi.fn()
  await held.trigger('pointerdown', { button: 0, clientX: 100, pointerId: 1 })
  await held.trigger('pointermove', { clientX: 100 + byPx })
  await held.trigger('pointerup', { clientX: 100 + byPx })
}
