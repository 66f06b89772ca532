import { useEventListener } from '@vueuse/core'
import { computed, onScopeDispose, shallowReactive } from 'vue'

export interface KeyAction {
  /** As KeyboardEvent.key; letters in lower case. */
  key: string
  ctrl?: boolean
  shift?: boolean
  /** What the list of keys says of it. Actions that share a line there have it once; one that nobody looks for has none. */
  keys?: string
  words?: string
  run: () => void
}

/** What a drop-down list does with keys of its own; all others are the page's, after a choice too. */
const OF_A_LIST = ['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'Home', 'End', 'Enter']

/** Who has keys now: the shell, the page on screen, and parts of it. */
const holders = shallowReactive(new Set<() => KeyAction[]>())

/** Every key that does something now, as the list of keys shows them. */
export const listedKeys = computed(() =>
  [...holders].flatMap((actions) => actions().filter((a) => a.keys && a.words)),
)

/** Give the keys back to the page, after a menu whose button would otherwise keep them: Space plays. */
export function letKeysGo(): void {
  const held = document.activeElement
  if (held instanceof HTMLElement && held.matches('[aria-haspopup]')) held.blur()
}

/** Window-wide keys. Typing in a field, going through a list, an open dialogue or menu, and buttons' own keys come first. */
export function useKeys(actions: () => KeyAction[]) {
  holders.add(actions)
  onScopeDispose(() => holders.delete(actions))

  function onKey(event: KeyboardEvent): void {
    if (event.defaultPrevented || event.altKey) return
    const target = event.target instanceof Element ? event.target : document.body
    const isTyping = target.closest(
      'input, textarea, [contenteditable], [role="dialog"], [role="menu"], .v-overlay',
    )
    const ctrl = event.ctrlKey || event.metaKey
    if (isTyping) return
    if (target.closest('select') && OF_A_LIST.includes(event.key)) return
    if (target.closest('button, a') && (event.key === ' ' || event.key === 'Enter')) return
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
    const found = actions().find(
      (a) => a.key === key && !!a.ctrl === ctrl && (a.shift === undefined || a.shift === event.shiftKey),
    )
    if (!found) return
    event.preventDefault()
    found.run()
  }
  useEventListener(window, 'keydown', onKey)
}
