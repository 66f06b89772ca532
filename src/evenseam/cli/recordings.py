"""Fits written to files without a server: their sound, and their beats."""

from pathlib import Path
from typing import Any

from evenseam.core.errors import BriefError, FileRefusedError


def write_fit(plan: Any, samples: Any, out: Path, sample_format: Any) -> None:
    """Write beside the target and move into place, so that a failure never leaves half a file under the name asked for."""
    from evenseam.core.audio.encode import WavWriter
    from evenseam.core.render import render_blocks

    part = out.with_name(out.name + ".part")
    try:
        with WavWriter(part, plan.rate, samples.shape[0], sample_format, plan.target_samples) as writer:
            for block in render_blocks(plan, samples):
                writer.write(block)
        part.replace(out)
    except (OSError, RuntimeError) as error:
        raise FileRefusedError(f"{out} cannot be written: {error}") from error
    finally:
        part.unlink(missing_ok=True)


def check_sample_format(name: str) -> None:
    """Raises: BriefError for one that cannot be written."""
    from evenseam.core.audio.encode import SAMPLE_FORMATS

    if name not in SAMPLE_FORMATS:
        raise BriefError(f"'{name}' is not a sample format; use {', '.join(SAMPLE_FORMATS)}.")


_BEATS_FORMS = (".mid", ".csv", ".wav")
_USUAL_FPS = "25"  # of timecodes in a table of bars, where no rate of a picture is given


def check_beats_form(out: Path | None) -> None:
    """Raises: BriefError for a form that beats cannot be written in."""
    if out is not None and out.suffix.lower() not in _BEATS_FORMS:
        raise BriefError(f"Beats are written as {', '.join(_BEATS_FORMS)}. Let the name of the file end with one of them.")


def write_beats(plan: Any, chart: Any, out: Path, rate: Any) -> None:
    """The beats of a fit as they are heard, in the form that the name ends with. Raises: BriefError, FileRefusedError."""
    from evenseam.core.exchange.tempi.fit_beats import bars_as_csv, beats_as_click, beats_as_midi
    from evenseam.core.plan.counted import counted
    from evenseam.core.timebase import FrameRate

    beats = counted(plan, chart)
    try:
        if out.suffix.lower() == ".wav":
            beats_as_click(beats, out)
        elif out.suffix.lower() == ".mid":
            out.write_bytes(beats_as_midi(beats, plan))
        else:
            out.write_bytes(bars_as_csv(beats, rate or FrameRate.parse(_USUAL_FPS), 0))
    except (OSError, RuntimeError) as error:
        raise FileRefusedError(f"{out} cannot be written: {error}") from error
