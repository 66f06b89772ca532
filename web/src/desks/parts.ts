/** Sounds of the production as parts of a programme. */
import type { CueFit, Track } from '@/api/client'
import type { Bus, Part } from '@/transport/programme'

/** All parts at the rate of the first one: the server brings the others to it, whole, and the browser none. */
export function atOneRate(parts: Part[]): Part[] {
  const rate = parts[0]?.rate ?? 0
  return parts.map((p) => ({ ...p, rate, lengthSamples: Math.ceil((p.lengthSamples * rate) / p.rate) }))
}

/** A track from its beginning, if its sound is there. */
export function trackPart(t: Track, bus: Bus): Part | null {
  if (t.state !== 'ready' || !t.rate_hz || !t.channels || !t.n_samples) return null
  const { rate_hz: rate, channels, n_samples: lengthSamples } = t
  return { url: `/api/tracks/${t.id}/sound`, rate, channels, lengthSamples, atS: 0, bus }
}

/** A kept fit of a track, if there is one. */
export function fitPart(fit: CueFit | undefined, t: Track, atS: number): Part | null {
  if (!fit?.plan || !fit.fit_id || !t.channels) return null
  const { rate, target_samples: lengthSamples } = fit.plan
  return {
    url: `/api/fits/${fit.fit_id}/sound`,
    rate,
    channels: t.channels,
    lengthSamples,
    atS,
    bus: 'music',
  }
}
