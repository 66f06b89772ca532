"""Tempo maps to what goes out."""

from dataclasses import asdict

from evenseam.api.schemas.tempo_maps import BeatChoiceRead, HeldRead, MapHitRead, MetreRead, TempoMapRead
from evenseam.services.tempo_maps import Laid


def map_read(laid: Laid) -> TempoMapRead:
    """A map as it goes out."""
    fps = float(laid.seen.rate.fps)
    hits = [
        MapHitRead(
            hit_id=hit.id,
            off_frames=place.off_s * fps,
            bar=place.bar,
            beat=place.beat,
            is_met=is_met,
            choices=[BeatChoiceRead(**asdict(choice)) for choice in choices],
        )
        for hit, (place, is_met), choices in zip(laid.seen.hits, laid.places(), laid.choices(), strict=True)
    ]
    return TempoMapRead(
        at_s=laid.beats.at_s.round(6).tolist(),
        beat_in_bar=laid.beats.beat_in_bar.tolist(),
        bpm=laid.beats.bpm.round(4).tolist(),
        metres=[MetreRead(bar=bar, numerator=n, denominator=d) for bar, n, d in laid.metres()],
        held=[HeldRead(beat=beat, hit_id=hit_id) for beat, hit_id in laid.held()],
        hits=hits,
    )
