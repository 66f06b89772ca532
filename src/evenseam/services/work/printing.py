"""Printing to a WAV file: a cue with one of its fits, or all that sounds on a picture. What is heard is what is printed."""

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any, cast

from sqlalchemy.orm import Session

from evenseam.core.audio.encode import SampleFormat, WavWriter
from evenseam.core.audio.sound import mapped
from evenseam.core.render import Mixdown, Programme, Recorded, Renderer
from evenseam.core.render.mixdown import Playable
from evenseam.jobs.kinds import Afterwards, Call, JobKind, nothing
from evenseam.jobs.worker import MediaPlace, tell
from evenseam.services.context import Context
from evenseam.services.programmes import MadeProgramme, Sounding, of_cue, on_picture
from evenseam.store.fits import get_fit
from evenseam.store.media import MediaStore, sound_name
from evenseam.store.models import Job
from evenseam.store.plans import read_plan
from evenseam.store.productions import get_picture
from evenseam.store.tracks import get_track


@dataclass(frozen=True, slots=True)
class Source:
    """A sound of a programme as a worker opens it: a recording in the media store, and the plan of it, if it is a fit."""

    name: str
    sha256: str
    channels: int
    rate: int
    plan: dict[str, Any] | None = None

    def open(self, media: MediaStore) -> Playable:
        """The sound."""
        samples = mapped(media.local_path(sound_name(self.sha256)), self.channels)
        return Recorded(samples, self.rate) if self.plan is None else Renderer(read_plan(self.plan), samples)


def print_programme(
    job_id: int, place: MediaPlace, programme: Programme, sources: Sequence[Source], sample_format: SampleFormat
) -> str:
    """Render a programme to a WAV file. Returns: its name in the media store."""
    media = place.open()
    mixdown = Mixdown(programme, {source.name: source.open(media) for source in sources})
    with tempfile.NamedTemporaryFile(dir=place.scratch_dir, suffix=".wav", delete=False) as file:
        part = Path(file.name)
    try:
        with WavWriter(part, programme.rate, programme.channels, sample_format, programme.n_samples) as writer:
            written = 0
            for block in mixdown.blocks():
                writer.write(block)
                written += block.shape[1]
                tell(job_id, written / programme.n_samples, "Rendering")
        name = f"renders/{job_id}.wav"
        media.put_file(part, name)
        return name
    finally:
        part.unlink(missing_ok=True)


class Printing(JobKind):
    """Subject: a fit, or a picture. Asked: `sample_format`."""

    name = "render"
    is_urgent = True

    def __init__(self, _context: Context) -> None:
        pass

    def prepare(self, session: Session, job: Job, place: MediaPlace) -> Call:
        """Plans are read by the worker."""
        made = self._programme(session, job)
        sources = [_source(session, sound) for sound in made.sounds]
        wanted = cast(SampleFormat, (job.asked or {})["sample_format"])
        return partial(print_programme, job.id, place, made.programme, sources, wanted)

    @staticmethod
    def _programme(session: Session, job: Job) -> MadeProgramme:
        if job.subject == "picture":
            return on_picture(session, get_picture(session, job.subject_id))
        fit = get_fit(session, job.subject_id)
        return of_cue(session, fit.cue_id, fit.id)

    def keep(self, session: Session, job: Job, result: Any) -> Afterwards:  # noqa: ARG002
        """The name of the file."""
        job.file = result
        return nothing


def _source(session: Session, sound: Sounding) -> Source:
    if sound.kind == "fit":
        fit = get_fit(session, sound.id)
        return Source(sound.name, fit.track.sha256, sound.channels, sound.rate, fit.plan)
    return Source(sound.name, get_track(session, sound.id).sha256, sound.channels, sound.rate)


KIND = Printing
