import { h } from 'vue'

/** Shows every row of a long list: a page of a test has no height to tell which are in view. */
export const wholeList = {
  props: ['items'],
  render(this: { items: unknown[]; $slots: Record<string, (of: object) => unknown> }) {
    return h('div', this.items.map((item, index) => this.$slots.default!({ item, index })) as [])
  },
}
