"""A wished intensity over time, as the search weighs it: what every bar costs that is played where another was wished."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import Wish
from evenseam.core.plan.search.graph import Bars

SHAPE_COST = 1.0  # of a second that is as far from its wish as can be; seams are worth a few of those
_STEP_S = 0.05
_QUIETEST_PCT, _LOUDEST_PCT = 5.0, 95.0  # of the bars of a track: what is between them is its range


@dataclass(frozen=True, slots=True, eq=False)
class Shape:
    """What is wished when, and how full each bar is.

    `wished`: float32 (steps,), 0 to 1 by steps of `step_samples` of the output, -1 where nothing is wished; empty for no
    shape. `sums`: float64 (3, nodes + 1), seconds of all bars before each node: as they are, times their level, and times its
    square; those of a run of bars are a difference of two.
    """

    wished: NDArray[np.float32]
    step_samples: int
    sums: NDArray[np.float64]

    @classmethod
    def none(cls) -> Self:
        """No shape: it costs nothing."""
        return cls(np.empty(0, dtype=np.float32), 1, np.zeros((3, 1)))

    @classmethod
    def of(cls, wishes: Sequence[Wish], chart: Chart, bars: Bars) -> Self:
        """The shape of some wishes for a track."""
        if not wishes:
            return cls.none()
        step = max(1, round(_STEP_S * chart.rate))
        wished = np.full(-(-max(w.end_samples for w in wishes) // step), -1, dtype=np.float32)
        for wish in wishes:
            at = np.arange(-(-wish.start_samples // step), -(-wish.end_samples // step))
            span = [wish.start_samples, wish.end_samples]
            wished[at] = np.interp(at * step, span, [wish.start_level, wish.end_level])
        seconds, level = bars.steps / chart.rate, levels_of(chart, bars)
        sums = np.cumsum([seconds, seconds * level, seconds * level**2], axis=1)
        # The nodes after the bars, the fade and the start, play for no time.
        return cls(wished, step, np.pad(np.pad(sums, ((0, 0), (1, 0))), ((0, 0), (0, 2)), mode="edge"))

    def for_kernel(self, base_samples: int) -> tuple[NDArray[np.float32], float, int, NDArray[np.float64], float]:
        """As the kernels take it, for times that count from a sample of the output."""
        return self.wished, 1 / self.step_samples, base_samples, self.sums, SHAPE_COST


def levels_of(chart: Chart, bars: Bars) -> NDArray[np.float64]:
    """How full each bar is, 0 for the thinnest of the track and 1 for its fullest; (bars,)."""
    beats = np.append(bars.first_beat, bars.first_beat[-1] + 1)
    total = np.concatenate([[0.0], np.cumsum(chart.intensity, dtype=np.float64)])
    level = np.diff(total[beats]) / np.diff(beats)
    low, high = np.percentile(level, [_QUIETEST_PCT, _LOUDEST_PCT])
    return np.clip((level - low) / max(high - low, 1e-6), 0, 1)
