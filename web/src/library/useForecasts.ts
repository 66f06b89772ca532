import type { Cue, Outlook } from '@/api/client'
import { forecastsQuery } from '@/api/queries'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'

/** How every track of a library would do in the slot of a cue: asked for page by page until all are judged. */
export function useForecasts(cue: () => Cue | undefined, libraryKey: () => string) {
  const query = useInfiniteQuery(
    computed(() => ({ ...forecastsQuery(cue(), libraryKey()), enabled: cue() !== undefined })),
  )
  const pages = computed(() => query.data.value?.pages ?? [])
  watch(
    () => [query.hasNextPage.value, query.isFetching.value, query.isError.value, pages.value.length],
    () => {
      if (query.hasNextPage.value && !query.isFetching.value && !query.isError.value)
        void query.fetchNextPage()
    },
    { immediate: true },
  )

  return {
    outlooks: computed(
      () => new Map<number, Outlook>(pages.value.flatMap((p) => p.outlooks).map((o) => [o.track_id, o])),
    ),
    /** How far it has got, in words, while there is more to come. */
    progress: computed(() => {
      const all = pages.value.at(-1)?.n_tracks ?? 0
      const judged = pages.value.reduce((sum, p) => sum + p.looked_at, 0)
      return query.hasNextPage.value ? `${judged} of ${all} tracks judged for this slot` : ''
    }),
  }
}
