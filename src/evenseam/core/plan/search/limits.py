"""What a person forbade or asked for in a track, as what it means for bars and beats: keep, skip and guard."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import NoPlanError

Flags = NDArray[np.bool_]
OUT_OF_REACH = np.int64(1) << 40  # a bar that may not be played lasts longer than any music that is asked for
_INSIDE_S = 0.01  # a span that ends within so much of a bar line ends on it


@dataclass(frozen=True, slots=True, eq=False)
class Limits:
    """`blocked`: (beats,) no seam leaves or enters here; `skipped`: (bars,) never played; `kept`: bars never jumped over."""

    blocked: Flags
    skipped: Flags
    kept: NDArray[np.int64]

    @property
    def any(self) -> bool:
        """Whether there are any."""
        return bool(self.blocked.any() or self.skipped.any() or self.kept.size)

    def steps(self, steps: NDArray[np.int64]) -> NDArray[np.int64]:
        """Samples from bar to bar, out of reach where the bar must not be played."""
        return np.where(self.skipped, OUT_OF_REACH, steps)

    def reachable(self, bar: int, hold: int) -> Flags:
        """Which bars a seam out of `bar` may enter, to play at least `hold` bars of them; (bars,)."""
        n = self.skipped.size
        skips = np.concatenate([[0], np.cumsum(self.skipped)])
        index = np.arange(n)
        last = np.minimum(index + hold, n - 1)  # the last bar line is where the ending starts: it is not a bar of its own
        free = skips[np.maximum(last, index)] == skips[index]
        for kept in self.kept[self.kept >= bar]:
            free &= index <= kept
        return free


def limits_of(chart: Chart, first_beat: NDArray[np.int64], marks: Sequence[TrackMark]) -> Limits:
    """The limits that marks set on the usable bars of a chart (`first_beat`: index of each bar's first beat)."""
    near = round(_INSIDE_S * chart.rate)
    blocked = np.zeros(chart.beats.size, dtype=bool)
    starts = chart.beats[first_beat]
    ends = np.append(starts[1:], chart.ring_out_end_samples)
    skipped, kept = np.zeros(starts.size, dtype=bool), np.empty(0, dtype=np.int64)
    for mark in marks:
        inside = (starts < mark.end_samples - near) & (ends > mark.start_samples + near)
        if mark.kind == "skip":
            skipped |= inside
            continue
        blocked |= (chart.beats > mark.start_samples + near) & (chart.beats < mark.end_samples - near)
        if mark.kind == "keep":
            kept = np.union1d(kept, np.flatnonzero(inside)[:1])
    return Limits(blocked, skipped, kept.astype(np.int64))


def check_opening(limits: Limits, opening_bars: int) -> None:
    """Raises: NoPlanError when a skip covers the track's own opening."""
    if limits.skipped[:opening_bars].any():
        raise NoPlanError("A skip covers the opening. Trim the head there instead, move the skip, or open at a section.")


def check_ending(limits: Limits) -> None:
    """Raises: NoPlanError when a skip covers the ending, which every fit plays."""
    if limits.skipped[-1]:
        raise NoPlanError("A skip covers the ending, which every fit plays. Trim the tail there instead, or move the skip.")
