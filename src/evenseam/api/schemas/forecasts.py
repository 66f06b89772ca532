"""How music would do in the slot of a cue."""

from evenseam.api.schemas.base import Answer


class OutlookRead(Answer):
    """How music would do in the slot of a cue. `suits`: 0 to 100; `grade`: of its worst seam, empty without one or unheard."""

    suits: int
    cost: float | None
    seams: int
    grade: str
    speed_change_pct: float
    hits_within_reach: int
    words: str


class TrackOutlookRead(OutlookRead):
    """How a track of the library would do in the slot of a cue."""

    track_id: int


class ForecastsRead(Answer):
    """Outlooks of the next tracks of a library, what suits best first; those that were not listened to yet have none.

    `looked_at` tracks were gone through for it, of `n_tracks` in all. `next_after`: what to ask for next, null at the end.
    """

    outlooks: list[TrackOutlookRead]
    looked_at: int
    n_tracks: int
    next_after: int | None
