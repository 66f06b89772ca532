"""Putting the chart of a track right: one step of undo each."""

import hashlib
import json
from collections.abc import Callable
from dataclasses import replace

from evenseam.core.chart import Chart, Corrections, Grid, Section, grid_of
from evenseam.core.listen import corrected
from evenseam.services.context import Context
from evenseam.services.planners import Uncorrected, WarmTrack
from evenseam.store.database import again_on_deadlock
from evenseam.store.history import change
from evenseam.store.models import Track
from evenseam.store.tracks import get_track

Correcting = Callable[[Corrections, Uncorrected, Chart], Corrections]


@again_on_deadlock
def correct(context: Context, track_id: int, words: str, make: Correcting) -> WarmTrack:
    """Change a track's corrections by `make(corrections, heard, chart as it is used)`.

    What cannot be used is refused before anything is kept. Raises: CorrectionError, NotFoundError, NotReadyError.
    """
    with context.database.transaction() as session:
        track = get_track(session, track_id, to_change=True)
        heard = context.planners.uncorrected(track)
        before = Corrections.from_dict(track.corrections)
        after = make(before, heard, context.planners.get(track).chart)
        corrected(heard.chart, heard.heard, after)
        fields = _fields(after, heard.chart)
        changed = change(session, f"{words} in {track.title}", (track, fields))
        warm = context.planners.get(track)
        production_id = track.production_id
    if changed:
        context.events.publish("tracks", production_id=production_id, track_id=track_id)
        context.events.publish("production", production_id=production_id)
    return warm


def on_grid(make: Callable[[Grid, Uncorrected, Chart], Grid]) -> Correcting:
    """A change of the grid alone."""

    def changed(corrections: Corrections, heard: Uncorrected, chart: Chart) -> Corrections:
        return replace(corrections, grid=make(grid_of(heard.chart, corrections), heard, chart).to_dict())

    return changed


def on_sections(make: Callable[[tuple[Section, ...]], tuple[Section, ...]]) -> Correcting:
    """A change of the sections alone."""

    def changed(corrections: Corrections, _heard: Uncorrected, chart: Chart) -> Corrections:
        return replace(corrections, sections=make(chart.sections))

    return changed


def _fields(corrections: Corrections, heard: Chart) -> dict[str, object]:
    """The columns of a track that hold its corrections."""
    if corrections == Corrections():
        return {"corrections": None, "corrections_digest": "", "set_tempo_bpm": None, "set_meter": None}
    stored = corrections.to_dict()
    digest = hashlib.sha256(json.dumps(stored, sort_keys=True).encode()).hexdigest()[:16]
    grid = None if corrections.grid is None else grid_of(heard, corrections)
    return {
        "corrections": stored,
        "corrections_digest": digest,
        "set_tempo_bpm": grid.tempo_bpm if grid else None,
        "set_meter": f"{grid.meter[0]}/{grid.meter[1]}" if grid else None,
    }


def corrections_of(track: Track) -> Corrections:
    """What was corrected of a track."""
    return Corrections.from_dict(track.corrections)
