import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Production = Schemas['ProductionRead']
export type SheetRead = Schemas['SheetRead']
export type Hit = Schemas['HitRead']
export type Line = Schemas['LineRead']
export type Shot = Schemas['ShotRead']
export type Carried = Schemas['CarriedRead']
export type Picture = Schemas['PictureRead']
export type Cue = Schemas['CueRead']
export type Track = Schemas['TrackRead']
export type Chart = Schemas['ChartRead']
export type Plan = Schemas['Plan']
export type Mark = Schemas['MarkRead']
export type Section = Schemas['SectionRead']
export type Seam = Schemas['Seam']
export type Choice = Schemas['BarChoice']
export type HitChoices = Schemas['HitChoices']
export type CueFit = Schemas['CueFitRead']
export type Way = Schemas['WayRead']
export type Change = Schemas['ChangeRead']
export type Outlook = Schemas['TrackOutlookRead']
export type Forecasts = Schemas['ForecastsRead']
export type Asks = Schemas['Asks']
export type SeamSaid = Schemas['SeamSaidRead']
export type SeamSays = Schemas['SeamSays']
export type Tempo = Schemas['TempoRead']
export type TempoMap = Schemas['TempoMapRead']
export type MapHit = Schemas['MapHitRead']
export type MapEdit =
  | Schemas['MetreEdit']
  | Schemas['TempoEdit']
  | Schemas['HoldEdit']
  | Schemas['LetGoEdit']
  | Schemas['ShapeEdit']
  | Schemas['BendEdit']
/** A programme with the sounds its clips name. */
export type MadeProgramme = Schemas['ProgrammeRead']
export type Programme = Schemas['Programme']
export type Clip = Schemas['Clip']
export type Job = Schemas['JobRead']
export type Piece = Schemas['PieceRead']
export type Problem = Schemas['Problem']

/** The one error of the front end: what the server said, in its own words. */
export class ApiError extends Error {
  constructor(
    readonly code: string,
    detail: string,
  ) {
    super(detail)
  }
}

export const UNREACHABLE =
  'Even Seam does not answer. Check that it still runs, then try again; nothing was lost.'

export const api = createClient<paths>({
  baseUrl: location.origin,
  fetch: async (request) => {
    try {
      return await globalThis.fetch(request)
    } catch (error) {
      if (error instanceof DOMException && error.name === 'AbortError') throw error
      throw new ApiError('unreachable', UNREACHABLE)
    }
  },
})

export function toApiError(body: unknown, status: number): ApiError {
  const problem = body as Partial<Problem> | undefined
  return new ApiError(problem?.code ?? `http_${status}`, problem?.detail ?? `The server answered ${status}.`)
}

/** The data of an answer, or its problem thrown. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await call
  if (error !== undefined || !response.ok) throw toApiError(error, response.status)
  return data as T
}

export interface SoundWanted {
  /** Of a fit's or a track's sound. */
  url: string
  rate: number
  start: number
  stop: number
  channels: number
  /** What was heard before it was a draft. */
  afterDraft: boolean
}

export interface FetchedSound {
  /** One array a channel. */
  channels: Float32Array[]
  /** The print is not made this far yet: its timing is right, and it is to be asked for again. */
  isDraft: boolean
}

/** A stretch of sound, in samples at the rate that is wanted. */
export async function fetchSound(wanted: SoundWanted, signal: AbortSignal): Promise<FetchedSound> {
  const { url, rate, start, stop, channels, afterDraft } = wanted
  const query = `start=${start}&stop=${stop}&rate=${rate}${afterDraft ? '&after_draft=true' : ''}`
  const response = await globalThis.fetch(`${url}${url.includes('?') ? '&' : '?'}${query}`, { signal })
  if (!response.ok) throw toApiError(await response.json().catch(() => undefined), response.status)
  const samples = new Float32Array(await response.arrayBuffer())
  const length = samples.length / channels
  return {
    channels: Array.from({ length: channels }, (_, c) => samples.subarray(c * length, (c + 1) * length)),
    isDraft: response.headers.get('Sound-Is-Draft') !== null,
  }
}

/** License a piece of the catalogue and follow its file coming in. Stops when `signal` does. */
export async function* licensePiece(productionId: number, pieceId: string, use: string, signal: AbortSignal) {
  const response = await globalThis
    .fetch(`/api/productions/${productionId}/catalogue/${pieceId}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ use }),
      signal,
    })
    .catch((error: Error) => {
      throw error.name === 'AbortError' ? error : new ApiError('unreachable', UNREACHABLE)
    })
  if (!response.ok || !response.body)
    throw toApiError(await response.json().catch(() => undefined), response.status)
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader()
  let text = ''
  for (;;) {
    const { value, done } = await reader.read()
    text += value ?? ''
    const lines = text.split('\n')
    text = lines.pop() ?? ''
    for (const line of lines) yield JSON.parse(line) as Schemas['FetchRead']
    if (done) return
  }
}

/** Send a file as the body of a request; what comes back is the answer, or its problem is thrown. */
export async function sendFile<T>(
  address: string,
  file: File,
  query: Record<string, string | number[]> = {},
): Promise<T> {
  const words = new URLSearchParams({ file_name: file.name })
  for (const [name, value] of Object.entries(query))
    for (const one of [value].flat()) words.append(name, String(one))
  const response = await globalThis
    .fetch(`${address}?${words}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: file,
    })
    .catch(() => {
      throw new ApiError('unreachable', UNREACHABLE)
    })
  const body: unknown = await response.json().catch(() => undefined)
  if (!response.ok) throw toApiError(body, response.status)
  return body as T
}

export async function fetchPeaks(trackId: number): Promise<ArrayBuffer> {
  const response = await globalThis.fetch(`/api/tracks/${trackId}/peaks`)
  if (!response.ok) throw toApiError(await response.json().catch(() => undefined), response.status)
  return response.arrayBuffer()
}
