"""The planner: holds what a track offers, and answers briefs at once."""

from collections.abc import Iterator
from functools import cached_property

from evenseam.core.audio.decode import Sound
from evenseam.core.errors import BriefError, NoPlanError
from evenseam.core.listen.chart import Chart
from evenseam.core.plan.assemble import assemble
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, USUAL_GIVE_PCT, Brief
from evenseam.core.plan.graph import Bars, Edges, seam_edges, usable_bars
from evenseam.core.plan.joins import Joins, all_joins
from evenseam.core.plan.plan import Plan
from evenseam.core.plan.search import Found, Route, Wanted, search
from evenseam.core.timebase import format_clock

_GIVE_MARGIN = 0.0004  # waveform alignment moves cuts by milliseconds after the search; give must still hold then
LONGEST_TARGET_S = 3 * 3600


class Planner:
    """Plans for one track. Construction is free; what a track offers is weighed at the first brief and kept.

    Parameters: chart: of the track. samples: its sound, float32 (channels, samples) or a memory map of that shape; it
    is only read around seams.
    """

    def __init__(self, chart: Chart, samples: Sound) -> None:
        if samples.ndim != 2 or samples.shape[1] != chart.n_samples:
            raise BriefError("Chart and sound are not of the same track.")
        self._chart = chart
        self._samples = samples
        self._edges: dict[tuple[int, bool], Edges] = {}

    @cached_property
    def _joins(self) -> Joins:
        return all_joins(self._chart)

    @cached_property
    def _bars(self) -> Bars:
        return usable_bars(self._chart)

    def plan(self, brief: Brief) -> Plan:
        """The best plan for a brief. Raises: NoPlanError with what would be possible instead."""
        return self.alternates(brief, 1)[0]

    def alternates(self, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` plans for a brief with different seams, best first. Raises: NoPlanError."""
        if brief.target_samples > LONGEST_TARGET_S * self._chart.rate:
            raise BriefError("The longest length that can be asked for is 3 hours.")
        routes = self._routes(brief, count)
        return tuple(assemble(self._chart, self._samples, self._joins, r, brief.target_samples) for r in routes)

    def _routes(self, brief: Brief, count: int) -> tuple[Route, ...]:
        """Search within the usual limits first; what was not asked for may then go further, hold before give."""
        chart = self._chart
        ring_out = chart.ring_out_end_samples - chart.last_hit_samples
        nearest: list[Found] = []
        for give_pct, hold, short_bars in _attempts(brief):
            wanted = Wanted(brief.target_samples - ring_out, max(0.0, give_pct / 100 - _GIVE_MARGIN))
            found = self._search(wanted, hold, short_bars, count if brief.max_seams is None else 64)
            routes = [r for r in found.routes if brief.max_seams is None or len(r.seams) <= brief.max_seams]
            if routes:
                return tuple(routes[:count])
            nearest.append(found)
        raise self._refusal(brief, nearest, ring_out)

    def _search(self, wanted: Wanted, hold: int, short_bars: bool, count: int) -> Found:
        if wanted.samples <= 0:
            return Found((), None, None)
        if (hold, short_bars) not in self._edges:
            self._edges[hold, short_bars] = seam_edges(self._chart, self._bars, self._joins, hold, short_bars)
        return search(self._chart, self._bars, self._edges[hold, short_bars], wanted, min(hold, 2), count)

    def _refusal(self, brief: Brief, nearest: list[Found], ring_out: int) -> NoPlanError:
        chart = self._chart
        asked = format_clock(brief.target_samples / chart.rate)
        shortest = self._shortest_samples()
        if brief.target_samples < shortest:
            least = format_clock(shortest / chart.rate)
            return NoPlanError(
                f"{asked} is too short to rearrange: the opening bar and the ending of this track take {least}. "
                f"Ask for {least} or more, or choose another track.",
                shortest_samples=shortest,
                shortest_s=shortest / chart.rate,
            )
        shorter = max((f.nearest_shorter for f in nearest if f.nearest_shorter is not None), default=None)
        longer = min((f.nearest_longer for f in nearest if f.nearest_longer is not None), default=None)
        give_pct = brief.give_pct if brief.give_pct is not None else USUAL_GIVE_PCT[-1]
        give = give_pct / 100
        possible = []
        if shorter is not None:
            possible.append(int(shorter * (1 + give)) + ring_out)
        if longer is not None:
            possible.append(int(longer * (1 - give)) + ring_out + 1)
        words = " or ".join(format_clock(p / chart.rate) for p in possible)
        hint = f" The nearest lengths that can be reached are {words}." if words else ""
        limits = f"give of {give_pct:g} %" + (f" and at most {brief.max_seams} seams" if brief.max_seams is not None else "")
        return NoPlanError(
            f"{asked} cannot be reached with a {limits}.{hint} Allow more give, or another length.",
            possible_samples=possible,
            possible_s=[p / chart.rate for p in possible],
        )

    def _shortest_samples(self) -> int:
        """Opening bar and ending, joined: nothing shorter keeps both."""
        chart, bars = self._chart, self._bars
        opening = int(bars.at[1] - chart.music_start_samples)
        ending = int(chart.ring_out_end_samples - bars.at[bars.end])
        return min(opening + ending, chart.ring_out_end_samples - chart.music_start_samples)


def _attempts(brief: Brief) -> Iterator[tuple[float, int, bool]]:
    """Give in per cent, hold in bars, and whether short bars may be used, in the order in which they are tried."""
    gives = USUAL_GIVE_PCT if brief.give_pct is None else (brief.give_pct,)
    holds = (DEFAULT_HOLD_BARS, 2, 1) if brief.hold_bars is None else (brief.hold_bars,)
    return ((give, hold, short) for give in gives for short in (False, True) for hold in holds)
