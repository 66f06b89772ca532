"""Printing a fit to a WAV file."""

import tempfile
from functools import partial
from pathlib import Path
from typing import Any, cast

from sqlalchemy.orm import Session

from evenseam.core.audio import WavWriter, mapped
from evenseam.core.audio.encode import SampleFormat
from evenseam.core.render import render_blocks
from evenseam.jobs.kinds import Afterwards, Call, JobKind, nothing
from evenseam.jobs.worker import MediaPlace, tell
from evenseam.services.context import Context
from evenseam.store.fits import get_fit
from evenseam.store.media import sound_name
from evenseam.store.models import Job
from evenseam.store.plans import read_plan


def render_fit(
    job_id: int, place: MediaPlace, sha256: str, channels: int, plan: dict[str, Any], sample_format: SampleFormat
) -> str:
    """Render a plan to a WAV file. Returns: its name in the media store."""
    media = place.open()
    made = read_plan(plan)
    samples = mapped(media.local_path(sound_name(sha256)), channels)
    with tempfile.NamedTemporaryFile(dir=place.scratch_dir, suffix=".wav", delete=False) as file:
        part = Path(file.name)
    try:
        with WavWriter(part, made.rate, channels, sample_format, made.target_samples) as writer:
            written = 0
            for block in render_blocks(made, samples):
                writer.write(block)
                written += block.shape[1]
                tell(job_id, written / made.target_samples, "Rendering")
        name = f"renders/{job_id}.wav"
        media.put_file(part, name)
        return name
    finally:
        part.unlink(missing_ok=True)


class Printing(JobKind):
    """Subject: a fit. Asked: `sample_format`."""

    name = "render"
    is_urgent = True

    def __init__(self, _context: Context) -> None:
        pass

    def prepare(self, session: Session, job: Job, place: MediaPlace) -> Call:
        """The plan is read by the worker."""
        fit = get_fit(session, job.subject_id)
        recording, wanted = fit.track.recording, cast(SampleFormat, (job.asked or {})["sample_format"])
        return partial(render_fit, job.id, place, recording.sha256, recording.channels or 1, fit.plan, wanted)

    def keep(self, session: Session, job: Job, result: Any) -> Afterwards:  # noqa: ARG002
        """The name of the file."""
        job.file = result
        return nothing


KIND = Printing
