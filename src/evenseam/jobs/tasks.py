"""What runs in a worker process. Payloads are names and values; results are written through the media store.

Nothing here touches the database: the server keeps the rows.
"""

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from distributed import get_worker

from evenseam.core.audio import WavWriter, mapped, open_stream
from evenseam.core.audio.encode import SampleFormat
from evenseam.core.audio.peaks import PeaksMaker
from evenseam.core.chart import Chart
from evenseam.core.listen import TakingIn, hear_and_chart
from evenseam.core.plan.search.joins import Joins
from evenseam.core.render import render_blocks
from evenseam.store.media import MediaStore, chart_name, heard_name, joins_name, original_name, peaks_name, sound_name
from evenseam.store.plans import read_plan

PROGRESS_TOPIC = "evenseam-progress"


@dataclass(frozen=True, slots=True)
class MediaPlace:
    """Where the media store is, as a worker opens it."""

    location: str
    scratch_dir: str
    cache_dir: str

    def open(self) -> MediaStore:
        """The store; the scratch folder is there then."""
        Path(self.scratch_dir).mkdir(parents=True, exist_ok=True)
        return MediaStore(self.location, Path(self.cache_dir))


def tell(job_id: int, progress: float, stage: str) -> None:
    """Say how far a job is."""
    get_worker().log_event(PROGRESS_TOPIC, {"job_id": job_id, "progress": progress, "stage": stage})


def listen_to(job_id: int, place: MediaPlace, sha256: str, suffix: str) -> tuple[bytes, int]:
    """Decode a recording, draw its peaks, chart it. Returns: the chart as bytes, and the number of channels.

    Raises: EvenSeamError with the reason when the file cannot be used.
    """
    media = place.open()
    tell(job_id, 0.02, "Decoding")
    stream = open_stream(media.local_path(original_name(sha256, suffix)))
    taking, peaks = TakingIn(stream.rate, stream.channels), PeaksMaker(stream.rate)
    with tempfile.NamedTemporaryFile(dir=place.scratch_dir, suffix=".f32", delete=False) as file:
        part = Path(file.name)
    try:
        with part.open("wb") as sound:
            for block in stream.blocks:
                block.T.tofile(sound)
                taking.push(block)
                peaks.push(block)
        tell(job_id, 0.4, "Listening for beats and bars")
        heard, chart = hear_and_chart(taking.finish())
        tell(job_id, 0.9, "Weighing where it can be joined")
        media.put_bytes(Joins(chart).to_bytes(), joins_name(sha256))
        media.put_bytes(heard.to_bytes(), heard_name(sha256))
        media.put_file(part, sound_name(sha256))
    finally:
        part.unlink(missing_ok=True)
    media.put_bytes(peaks.finish(), peaks_name(sha256))
    stored = chart.to_bytes()
    media.put_bytes(stored, chart_name(sha256))
    return stored, stream.channels


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


def returned_chart(data: bytes) -> Chart:
    """The chart a worker returned."""
    return Chart.from_bytes(data)
