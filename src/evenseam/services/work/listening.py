"""Listening to a track: decoded, drawn, charted, its joins weighed, every length forecast."""

import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.audio.decode import open_stream
from evenseam.core.audio.peaks import PeaksMaker
from evenseam.core.audio.sound import mapped
from evenseam.core.chart import Chart
from evenseam.core.listen import TakingIn, hear_and_chart
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.joins import Joins
from evenseam.jobs.kinds import Afterwards, Call, JobKind, nothing
from evenseam.jobs.worker import MediaPlace, tell
from evenseam.services import tracks
from evenseam.services.context import Context
from evenseam.store.media import (
    MediaStore,
    chart_name,
    forecast_name,
    heard_name,
    joins_name,
    original_name,
    peaks_name,
    sound_name,
)
from evenseam.store.models import Job
from evenseam.store.tracks import get_track, keep_heard

Say = Callable[[float, str], None]


def listen_to(job_id: int, place: MediaPlace, sha256: str, suffix: str) -> tuple[bytes, int]:
    """Decode a recording, draw its peaks, chart it. Returns: the chart as bytes, and the number of channels.

    Raises: EvenSeamError with the reason when the file cannot be used.
    """
    return hear_into(place.open(), Path(place.scratch_dir), sha256, suffix, partial(tell, job_id))


def hear_into(media: MediaStore, scratch_dir: Path, sha256: str, suffix: str, say: Say) -> tuple[bytes, int]:
    """The same for a recording whose file is in a media store: all that is made of it is kept there."""
    say(0.02, "Decoding")
    stream = open_stream(media.local_path(original_name(sha256, suffix)))
    taking, peaks = TakingIn(stream.rate, stream.channels), PeaksMaker(stream.rate)
    with tempfile.NamedTemporaryFile(dir=scratch_dir, suffix=".f32", delete=False) as file:
        part = Path(file.name)
    try:
        with part.open("wb") as sound:
            for block in stream.blocks:
                block.T.tofile(sound)
                taking.push(block)
                peaks.push(block)
        say(0.4, "Listening for beats and bars")
        heard, chart = hear_and_chart(taking.finish())
        say(0.9, "Weighing where it can be joined")
        joins = Joins(chart)
        media.put_bytes(joins.to_bytes(), joins_name(sha256))
        forecast = Planner(chart, mapped(part, stream.channels), joins).forecast()
        media.put_bytes(forecast.to_bytes(), forecast_name(sha256))
        media.put_bytes(heard.to_bytes(), heard_name(sha256))
        media.put_file(part, sound_name(sha256))
    finally:
        part.unlink(missing_ok=True)
    media.put_bytes(peaks.finish(), peaks_name(sha256))
    stored = chart.to_bytes()
    media.put_bytes(stored, chart_name(sha256))
    return stored, stream.channels


class Listening(JobKind):
    """Subject: a track."""

    name = "listen"

    def __init__(self, context: Context) -> None:
        self._context = context

    def prepare(self, session: Session, job: Job, place: MediaPlace) -> Call:
        """The recording is listened to, under whichever track it was asked for."""
        recording = get_track(session, job.subject_id).recording
        return partial(listen_to, job.id, place, recording.sha256, recording.suffix)

    def keep(self, session: Session, job: Job, result: Any) -> Afterwards:
        """What the list of tracks shows of the chart."""
        keep_heard(session, get_track(session, job.subject_id).sha256, Chart.from_bytes(result[0]), result[1])
        return nothing

    def refuse(self, session: Session, job: Job, reason: str) -> Afterwards:
        """The track goes again, unless it was heard before."""
        return tracks.refuse(self._context, session, job.subject_id, reason)


KIND = Listening
