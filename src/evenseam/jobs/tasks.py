"""What runs in a worker process. Payloads are names and values; results are written through the media store.

Nothing here touches the database: the server keeps the rows.
"""

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from distributed import get_worker

from evenseam.core.audio import WavWriter, decode
from evenseam.core.audio.encode import SampleFormat
from evenseam.core.audio.peaks import peaks_dat
from evenseam.core.listen import Chart, listen
from evenseam.core.plan import Plan
from evenseam.core.render import render_blocks
from evenseam.store.media import MediaStore, chart_name, original_name, peaks_name, sound_name

PROGRESS_TOPIC = "evenseam-progress"


@dataclass(frozen=True, slots=True)
class MediaPlace:
    """Where the media store is, as a worker opens it."""

    location: str
    scratch_dir: str

    def open(self) -> MediaStore:
        """The store."""
        return MediaStore(self.location, Path(self.scratch_dir) / "cache")


def _tell(job_id: int, progress: float, stage: str) -> None:
    get_worker().log_event(PROGRESS_TOPIC, {"job_id": job_id, "progress": progress, "stage": stage})


def listen_to(job_id: int, place: MediaPlace, sha256: str, suffix: str) -> tuple[bytes, int]:
    """Decode a recording, draw its peaks, chart it. Returns: the chart as bytes, and the number of channels.

    Raises: EvenSeamError with the reason when the file cannot be used.
    """
    media = place.open()
    _tell(job_id, 0.05, "Decoding")
    audio = decode(media.local_path(original_name(sha256, suffix)))
    _tell(job_id, 0.35, "Drawing the waveform")
    with tempfile.NamedTemporaryFile(dir=place.scratch_dir, suffix=".f32", delete=False) as file:
        audio.samples.tofile(file)
    media.put_file(Path(file.name), sound_name(sha256))
    media.put_bytes(peaks_dat(audio.samples, audio.rate), peaks_name(sha256))
    _tell(job_id, 0.5, "Listening for beats and bars")
    chart = listen(audio).to_bytes()
    media.put_bytes(chart, chart_name(sha256))
    return chart, audio.samples.shape[0]


def render_fit(
    job_id: int, place: MediaPlace, sha256: str, channels: int, plan: dict[str, Any], sample_format: SampleFormat
) -> str:
    """Render a plan to a WAV file. Returns: its name in the media store."""
    media = place.open()
    made = Plan.from_dict(plan)
    samples = np.memmap(media.local_path(sound_name(sha256)), dtype="<f4", mode="r").reshape(channels, -1)
    with tempfile.NamedTemporaryFile(dir=place.scratch_dir, suffix=".wav", delete=False) as file:
        part = Path(file.name)
    try:
        with WavWriter(part, made.rate, channels, sample_format, made.target_samples) as writer:
            written = 0
            for block in render_blocks(made, samples):
                writer.write(block)
                written += block.shape[1]
                _tell(job_id, written / made.target_samples, "Rendering")
        name = f"renders/{job_id}.wav"
        media.put_file(part, name)
        return name
    finally:
        part.unlink(missing_ok=True)


def chart_of(data: bytes) -> Chart:
    """The chart a worker returned."""
    return Chart.from_bytes(data)
