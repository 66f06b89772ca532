"""Where ways may end other than on the track's own last hit: under a fade, from a bar line on.

Such an ending is an edge like a seam: from a bar to a node of its own, which stands for the fade and plays nothing more.
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.plan.search.graph import Bars, Edges
from evenseam.core.plan.search.limits import Limits
from evenseam.core.plan.tail import stops_of

FADES = -2  # in the place of a beat entered: the music fades from the beat that is left

Ints = NDArray[np.int64]


def with_fades(edges: Edges, chart: Chart, bars: Bars, limits: Limits, fade_samples: int) -> Edges:
    """The edges, and those from every bar line on which a fade of some length may begin; none play into the track's own ending.

    Raises: NoPlanError when there is no such bar line.
    """
    bar, cost = _fades(chart, bars, limits, fade_samples)
    if not bar.size:
        raise NoPlanError("Nowhere in this track is there room for a fade of that length. Ask for a shorter one.")
    kept = edges[edges.to != bars.end]
    leaves, costs = np.concatenate([kept.bar_from, bar]), np.concatenate([kept.cost, cost])
    order = np.lexsort((costs, leaves))
    return Edges(
        first=np.searchsorted(leaves[order], np.arange(bars.at.size + 1)).astype(np.int64),
        to=np.append(kept.to, np.full(bar.size, bars.end + 1))[order],
        samples=np.append(kept.samples, np.zeros(bar.size, dtype=np.int64))[order],
        cost=costs[order],
        beat_from=np.append(kept.beat_from, bars.first_beat[bar])[order],
        beat_to=np.append(kept.beat_to, np.full(bar.size, FADES))[order],
    )


def _fades(chart: Chart, bars: Bars, limits: Limits, fade_samples: int) -> tuple[Ints, NDArray[np.float32]]:
    """The bars on whose line a fade may begin, which may get longer than asked, and what speaks against each."""
    stops, costs = stops_of(chart)
    bar = np.arange(1, bars.at.size)
    ends = bars.at[bar] + fade_samples
    last = np.searchsorted(bars.at, ends, side="left")  # bars from there on are not heard
    skips = np.concatenate([[0], np.cumsum(limits.skipped)])
    free = (ends <= chart.ring_out_end_samples) & (skips[last] == skips[bar])
    if limits.kept.size:
        free &= bar > limits.kept[-1]
    cost = costs[np.minimum(np.searchsorted(stops, bars.at[bar]), stops.size - 1)].astype(np.float32)
    return bar[free], cost[free]
