import { vi } from 'vitest'
import { h } from 'vue'

/** Shows every row of a long list: a page of a test has no height to tell which are in view. */
export const wholeList = {
  props: ['items'],
  render(this: { items: unknown[]; $slots: Record<string, (of: object) => unknown> }) {
    return h('div', this.items.map((item, index) => this.$slots.default!({ item, index })) as [])
  },
}

/** Elements are so wide and high as long as a test runs. */
export function sized(widthPx: number, heightPx: number): void {
  vi.stubGlobal(
    'ResizeObserver',
    class {
      constructor(private readonly done: (entries: unknown[]) => void) {}
      observe() {
        const contentBoxSize = [{ inlineSize: widthPx, blockSize: heightPx }]
        this.done([{ contentRect: { width: widthPx, height: heightPx }, contentBoxSize }])
      }
      unobserve() {}
      disconnect() {}
    },
  )
}
