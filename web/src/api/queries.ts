/** Server data: key and fetch declared together. */
import { parsePeaks } from '@/drawing/peaks'
import { QueryClient, queryOptions } from '@tanstack/vue-query'
import { answer, api, fetchPeaks } from './client'

export const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: false } },
})

export const productionsQuery = queryOptions({
  queryKey: ['productions'],
  queryFn: () => answer(api.GET('/api/productions')),
})

export const productionQuery = (id: number) =>
  queryOptions({
    queryKey: ['production', id],
    queryFn: () =>
      answer(api.GET('/api/productions/{production_id}', { params: { path: { production_id: id } } })),
  })

export const tracksQuery = (productionId: number) =>
  queryOptions({
    queryKey: ['tracks', productionId],
    queryFn: () =>
      answer(
        api.GET('/api/productions/{production_id}/tracks', {
          params: { path: { production_id: productionId } },
        }),
      ),
  })

/** The length and track are part of the key: going back to a length shows its fit at once. */
export const cueFitQuery = (cueId: number, lengthFlicks: number, trackId: number | null) =>
  queryOptions({
    queryKey: ['fit', cueId, lengthFlicks, trackId],
    queryFn: () => answer(api.GET('/api/cues/{cue_id}/fit', { params: { path: { cue_id: cueId } } })),
  })

export const chartQuery = (trackId: number) =>
  queryOptions({
    queryKey: ['chart', trackId],
    queryFn: () =>
      answer(api.GET('/api/tracks/{track_id}/chart', { params: { path: { track_id: trackId } } })),
    staleTime: Infinity,
  })

export const peaksQuery = (trackId: number) =>
  queryOptions({
    queryKey: ['peaks', trackId],
    queryFn: async () => parsePeaks(await fetchPeaks(trackId)),
    staleTime: Infinity,
    structuralSharing: false,
  })
