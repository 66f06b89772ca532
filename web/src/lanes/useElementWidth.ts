import { onScopeDispose, readonly, ref, watch, type Ref } from 'vue'

/** Width of an element in CSS pixels, kept current. */
export function useElementWidth(element: Ref<HTMLElement | null>) {
  const widthPx = ref(0)
  const observer = new ResizeObserver(([entry]) => {
    if (entry) widthPx.value = Math.floor(entry.contentRect.width)
  })
  watch(
    element,
    (now, before) => {
      if (before) observer.unobserve(before)
      if (now) {
        widthPx.value = Math.floor(now.clientWidth)
        observer.observe(now)
      }
    },
    { immediate: true, flush: 'post' },
  )
  onScopeDispose(() => observer.disconnect())
  return readonly(widthPx)
}
