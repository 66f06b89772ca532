import type { CueFit } from '@/api/client'
import { computed, ref, shallowRef, watch, type Ref } from 'vue'

/**
 * The fit that a cue had before the one it has, for hearing and seeing either at once, at the same place. `of`: the cue and its
 * track; what another one had says nothing of this.
 */
export function useFitBefore(of: Ref<string>, fit: Ref<CueFit | undefined>) {
  const before = shallowRef<CueFit>()
  const isBefore = ref(false)
  watch([of, fit], ([nowOf, now], [wasOf, was]) => {
    const isOther = nowOf !== wasOf
    if (isOther) before.value = undefined
    else if (was?.plan && now && now.fit_id !== was.fit_id) before.value = was
    if (isOther || now?.fit_id !== was?.fit_id) isBefore.value = false
  })
  return {
    hasBefore: computed(() => before.value !== undefined),
    isBefore,
    heard: computed(() => (isBefore.value ? before.value : fit.value)),
  }
}
