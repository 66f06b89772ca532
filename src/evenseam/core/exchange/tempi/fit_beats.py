"""What is written of the beats of a plan, for whoever plays or cuts to it: a tempo map, a table of bars, a click."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from evenseam.core.exchange.tempi.bars_csv import write_fit_bars
from evenseam.core.exchange.tempi.click_wav import write_counted
from evenseam.core.exchange.tempi.tempo_midi import write_beats_midi
from evenseam.core.plan.counted import Counted
from evenseam.core.plan.model import Plan
from evenseam.core.timebase import FrameRate


def beats_as_midi(beats: Counted, plan: Plan, labels: Sequence[str] = ()) -> bytes:
    """A Standard MIDI File that starts with the plan's output, with the hits that were asked for as markers.

    `labels`: of the hits, where they are known better than by the plan.
    """
    names = labels or [hit.label for hit in plan.hits]
    markers = [
        (hit.asked_samples / plan.rate, name or f"Hit {k}")
        for k, (hit, name) in enumerate(zip(plan.hits, names, strict=True), 1)
    ]
    return write_beats_midi(beats.at_s(), beats.beat_in_bar, beats.quarters, markers)


def bars_as_csv(beats: Counted, rate: FrameRate, start_frames: int) -> bytes:
    """The bars with their timecodes, tempi and places in the track; `start_frames`: the timecode where the plan starts."""
    at_s, bars = beats.at_s(), beats.bars()
    ends = np.append(bars[1:], at_s.size - 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        bpm = 60 * (ends - bars) / (at_s[ends] - at_s[bars])  # no number for a last bar of one beat
    track_s = beats.source_samples[bars] / beats.rate
    return write_fit_bars(at_s[bars].tolist(), bpm.tolist(), track_s.tolist(), rate, start_frames)


def beats_as_click(beats: Counted, path: Path) -> None:
    """A click on every beat, as long as the plan and at its rate."""
    write_counted(path, beats.at_samples, beats.beat_in_bar, beats.length_samples, beats.rate)
