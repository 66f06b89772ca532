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
  type MadeProgramme,
  type SeamSaid,
  type Tempo,
  type Way,
} from './client'

export const queryClient = new QueryClient({
  // What was fetched is never changed in place: watching every number of it would cost more than drawing it.
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: false, shallow: true } },
})

/** A query that was there before, as a placeholder is told of it. */
type Keyed = { queryKey: readonly unknown[] }

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
interface Asked {
  cue: number
  track: number | null
  chart: string
  slot: [startFrames: number, lengthFlicks: number]
  asks: string
  /** Counts what was said of its seams. */
  seams: number
}
const asked = (cue: Cue | undefined, track: number | null, chart: string): Asked => ({
  cue: cue?.id ?? 0,
  track,
  chart,
  slot: [cue?.slot_start_frames ?? 0, cue?.slot_length_flicks ?? 0],
  asks: JSON.stringify(cue?.asks ?? null),
  seams: cue?.seams_revision ?? 0,
})
const isOf = (key: readonly unknown[] | undefined, { cue, track }: Asked) => {
  const of = key?.[1] as Partial<Asked> | undefined
  return of?.cue === cue && of.track === track
}

/** The fit of a cue and a track that came last, whatever it was asked for; many queries at once have no other way to it. */
function lastFit(of: Asked): CueFit | undefined {
  const known = queryClient
    .getQueryCache()
    .findAll({ queryKey: ['fit'] })
    .filter(({ queryKey }) => queryKey.length === 2 && isOf(queryKey, of))
    .filter(({ state }) => (state.data as CueFit | undefined)?.plan)
    .sort((a, b) => b.state.dataUpdatedAt - a.state.dataUpdatedAt)
  return known[0]?.state.data as CueFit | undefined
}

const pathOf = (cue: Cue | undefined) => ({ params: { path: { cue_id: cue!.id } } })

export const cueFitQuery = (cue: Cue | undefined, trackId: number | null, chartId: string) => {
  const of = asked(cue, trackId, chartId)
  return queryOptions({
    queryKey: ['fit', of],
    queryFn: async () => {
      const kept = await answer(api.GET('/api/cues/{cue_id}/fit', pathOf(cue)))
      return kept.is_missing ? answer(api.POST('/api/cues/{cue_id}/fit', pathOf(cue))) : kept
    },
    // While the next fit is on its way, that of the same cue and track stays on screen, and is heard: the one that was there,
    // not one that was asked for before and came late.
    placeholderData: (shown: CueFit | undefined, before) =>
      shown?.plan && isOf(before?.queryKey, of) ? shown : lastFit(of),
  })
}

/** What every method makes of what a cue asks for; the method that it asks for now is no part of that. */
export const waysQuery = (cue: Cue | undefined, trackId: number | null, chartId: string) => {
  const of = asked(cue && { ...cue, asks: { ...cue.asks, method: null } }, trackId, chartId)
  return queryOptions({
    queryKey: ['fit', of, 'ways'],
    queryFn: () => answer(api.GET('/api/cues/{cue_id}/ways', pathOf(cue))),
    placeholderData: (shown: Way[] | undefined, before) => (isOf(before?.queryKey, of) ? shown : undefined),
  })
}

/** The smallest changes of what a cue asks for that would have its musts met. */
export const changesQuery = (cue: Cue | undefined, trackId: number | null, chartId: string) =>
  queryOptions({
    queryKey: ['fit', asked(cue, trackId, chartId), 'changes'],
    queryFn: () => answer(api.GET('/api/cues/{cue_id}/changes', pathOf(cue))),
  })

/** What is said of the seams of a cue and the track it has. */
export const seamsQuery = (cue: Cue | undefined, trackId: number | null) => {
  const of = { cue: cue?.id ?? 0, track: trackId, seams: cue?.seams_revision ?? 0 }
  return queryOptions({
    queryKey: ['fit', of, 'seams'],
    queryFn: () => answer(api.GET('/api/cues/{cue_id}/seams', pathOf(cue))),
    placeholderData: (shown: SeamSaid[] | undefined) => shown,
  })
}

export const pictureProgrammeQuery = (pictureId: number) =>
  queryOptions({
    queryKey: ['programme', 'picture', pictureId],
    queryFn: () =>
      answer(
        api.GET('/api/pictures/{picture_id}/programme', { params: { path: { picture_id: pictureId } } }),
      ),
  })

/** A cue alone with one of its fits; while the next one is asked for, that of the same cue and track goes on. */
export const cueProgrammeQuery = (cueId: number, trackId: number | null, fitId: number) =>
  queryOptions({
    queryKey: ['programme', 'cue', cueId, trackId, fitId],
    queryFn: () =>
      answer(
        api.GET('/api/cues/{cue_id}/programme', {
          params: { path: { cue_id: cueId }, query: { fit_id: fitId } },
        }),
      ),
    placeholderData: (shown: MadeProgramme | undefined, before: Keyed | undefined) =>
      before?.queryKey[2] === cueId && before.queryKey[3] === trackId ? shown : undefined,
  })

export const trackProgrammeQuery = (trackId: number, chartId: string, click: boolean) =>
  queryOptions({
    queryKey: ['programme', 'track', trackId, click, click && chartId],
    queryFn: () =>
      answer(
        api.GET('/api/tracks/{track_id}/programme', {
          params: { path: { track_id: trackId }, query: { click } },
        }),
      ),
    placeholderData: (shown: MadeProgramme | undefined, before: Keyed | undefined) =>
      before?.queryKey[2] === trackId ? shown : undefined,
  })

/** How every track would do in the slot of a cue, page by page; asked again when the library or its charts change. */
export const forecastsQuery = (cue: Cue | undefined, libraryKey: string) =>
  infiniteQueryOptions({
    queryKey: [
      'fit',
      { cue: cue?.id ?? 0, slot: [cue?.slot_start_frames, cue?.slot_length_flicks] },
      'forecasts',
      libraryKey,
    ],
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
    placeholderData: (before: Chart | undefined, query: Keyed | undefined) =>
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
