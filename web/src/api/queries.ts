/** Server data: key and fetch declared together. */
import { parsePeaks } from './peaks'
import { infiniteQueryOptions, QueryClient, queryOptions, type InfiniteData } from '@tanstack/vue-query'
import {
  answer,
  api,
  fetchPeaks,
  type Chart,
  type Cue,
  type CueFit,
  type Forecasts,
  type Tempo,
  type Way,
} from './client'

export const queryClient = new QueryClient({
  // What was fetched is never changed in place: watching every number of it would cost more than drawing it.
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: false, shallow: true } },
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

export const refusalsQuery = (productionId: number) =>
  queryOptions({
    queryKey: ['tracks', productionId, 'refusals'],
    queryFn: () =>
      answer(
        api.GET('/api/productions/{production_id}/refusals', {
          params: { path: { production_id: productionId } },
        }),
      ),
  })

/** No second try by itself: a catalogue that fails is said to fail, and asked again when somebody wants to. */
export const catalogueQuery = (words: string, cue: Cue | undefined) =>
  queryOptions({
    queryKey: ['catalogue', words, cue?.id ?? 0, cue?.slot_start_frames, cue?.slot_length_flicks],
    queryFn: ({ signal }) =>
      answer(api.GET('/api/catalogue', { params: { query: { words, cue_id: cue?.id } }, signal })),
    retry: false,
  })

/** What a cue asks for, its track and chart are the key: going back to a length shows its fit at once. */
const askedKey = (cue: Cue | undefined, trackId: number | null, chartId: string) => [
  'fit',
  cue?.id ?? 0,
  cue?.slot_start_frames,
  cue?.slot_length_flicks,
  JSON.stringify(cue?.asks ?? null),
  trackId,
  chartId,
]
const ASKED_PARTS = 7

const isOf = (key: readonly unknown[] | undefined, cue: Cue | undefined, trackId: number | null) =>
  key?.[1] === (cue?.id ?? 0) && key?.[5] === trackId

/** The fit of a cue and a track that came last, whatever it was asked for; many queries at once have no other way to it. */
function lastFit(cue: Cue | undefined, trackId: number | null): CueFit | undefined {
  const known = queryClient
    .getQueryCache()
    .findAll({ queryKey: ['fit'] })
    .filter(({ queryKey }) => isOf(queryKey, cue, trackId) && queryKey.length === ASKED_PARTS)
    .filter(({ state }) => (state.data as CueFit | undefined)?.plan)
    .sort((a, b) => b.state.dataUpdatedAt - a.state.dataUpdatedAt)
  return known[0]?.state.data as CueFit | undefined
}

export const cueFitQuery = (cue: Cue | undefined, trackId: number | null, chartId: string) =>
  queryOptions({
    queryKey: askedKey(cue, trackId, chartId),
    queryFn: async () => {
      const at = { params: { path: { cue_id: cue!.id } } }
      const kept = await answer(api.GET('/api/cues/{cue_id}/fit', at))
      return kept.is_missing ? answer(api.POST('/api/cues/{cue_id}/fit', at)) : kept
    },
    // While the next fit is on its way, that of the same cue and track stays on screen, and is heard: the one that was there,
    // not one that was asked for before and came late.
    placeholderData: (shown: CueFit | undefined, of) =>
      shown?.plan && isOf(of?.queryKey, cue, trackId) ? shown : lastFit(cue, trackId),
  })

/** What every method makes of what a cue asks for; the method that it asks for now is no part of that. */
export const waysQuery = (cue: Cue | undefined, trackId: number | null, chartId: string) =>
  queryOptions({
    queryKey: [...askedKey(cue && { ...cue, asks: { ...cue.asks, method: null } }, trackId, chartId), 'ways'],
    queryFn: () => answer(api.GET('/api/cues/{cue_id}/ways', { params: { path: { cue_id: cue!.id } } })),
    placeholderData: (shown: Way[] | undefined, of) => (isOf(of?.queryKey, cue, trackId) ? shown : undefined),
  })

/** The smallest changes of what a cue asks for that would have its musts met. */
export const changesQuery = (cue: Cue | undefined, trackId: number | null, chartId: string) =>
  queryOptions({
    queryKey: [...askedKey(cue, trackId, chartId), 'changes'],
    queryFn: () => answer(api.GET('/api/cues/{cue_id}/changes', { params: { path: { cue_id: cue!.id } } })),
  })

/** How every track would do in the slot of a cue, page by page; asked again when the library or its charts change. */
export const forecastsQuery = (cue: Cue | undefined, libraryKey: string) =>
  infiniteQueryOptions({
    queryKey: ['fit', cue?.id ?? 0, cue?.slot_start_frames, cue?.slot_length_flicks, 'forecasts', libraryKey],
    queryFn: ({ pageParam, signal }) =>
      answer(
        api.GET('/api/cues/{cue_id}/forecasts', {
          params: { path: { cue_id: cue!.id }, query: { after: pageParam } },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last: Forecasts) => last.next_after,
    placeholderData: (before: InfiniteData<Forecasts, number> | undefined) => before,
  })

export const chartQuery = (trackId: number, chartId: string) =>
  queryOptions({
    queryKey: ['chart', trackId, chartId],
    queryFn: () =>
      answer(api.GET('/api/tracks/{track_id}/chart', { params: { path: { track_id: trackId } } })),
    staleTime: Infinity,
    // While the next chart is on its way, that of the same track stays on screen.
    placeholderData: (before: Chart | undefined, query: { queryKey: readonly unknown[] } | undefined) =>
      query?.queryKey[1] === trackId ? before : undefined,
  })

export const sheetQuery = (pictureId: number) =>
  queryOptions({
    queryKey: ['sheet', pictureId],
    queryFn: () =>
      answer(api.GET('/api/pictures/{picture_id}/sheet', { params: { path: { picture_id: pictureId } } })),
  })

export interface TempiAsked {
  pictureId: number
  low_bpm: number
  high_bpm: number
  meter: number
  starts_frames: number | undefined
}

/** The steady tempi that meet the hits of a picture; while others are looked for, those that were found stay. */
export const tempiQuery = ({ pictureId, ...query }: TempiAsked, hitsKey: string) =>
  queryOptions({
    queryKey: ['tempi', pictureId, query, hitsKey],
    queryFn: () =>
      answer(
        api.GET('/api/pictures/{picture_id}/tempi', { params: { path: { picture_id: pictureId }, query } }),
      ),
    retry: false,
    placeholderData: (before: Tempo[] | undefined) => before,
  })

export const tempoMapQuery = (pictureId: number) =>
  queryOptions({
    queryKey: ['sheet', pictureId, 'tempo-map'],
    queryFn: async () => {
      const path = { picture_id: pictureId }
      return (await answer(api.GET('/api/pictures/{picture_id}/tempo-map', { params: { path } }))) ?? null
    },
  })

export const shotsQuery = (pictureId: number) =>
  queryOptions({
    queryKey: ['sheet', pictureId, 'shots'],
    queryFn: () =>
      answer(api.GET('/api/pictures/{picture_id}/shots', { params: { path: { picture_id: pictureId } } })),
  })

export const peaksQuery = (trackId: number) =>
  queryOptions({
    queryKey: ['peaks', trackId],
    queryFn: async () => parsePeaks(await fetchPeaks(trackId)),
    staleTime: Infinity,
    structuralSharing: false,
  })
