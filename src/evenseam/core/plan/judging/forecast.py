"""Forecasts: how well a track suits a slot, told without planning or rendering anything.

What every length would cost is weighed once a track, by one search for all of them; a slot is then a look at what lies near
its length. Seams are as the planner takes them first: the usual hold, no short bars.
"""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import DEFAULT_HOLD_BARS, FURTHER_GIVES_PCT, Aim, Brief
from evenseam.core.plan.methods.attempts import Attempt
from evenseam.core.plan.methods.rearrange import graph_for, openings_of
from evenseam.core.plan.methods.trim import SHORTEST_S
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search._kernels_ways import along_ways
from evenseam.core.plan.search.joins import grade
from evenseam.core.plan.search.labels import Wanted, Ways
from evenseam.core.plan.tail import Tail

LONGEST_S = 20 * 60
_GIVE = FURTHER_GIVES_PCT[-1] / 100
_HIT_GIVE = 0.03  # between two hits
_HALVED_BY = 7.5  # of cost, in a minute: what suits half as well; longer music may have more of it
_MISSED_SUITS = 0.6  # a slot whose hits are all out of reach suits so much less
_TRIMMED_SUITS = 25.0  # of a track that can only be trimmed
_WAY = np.dtype([("played", "<i8"), ("cost", "<f4"), ("seams", "<i4"), ("worst_pct", "<f4")])  # as stored

Ints = NDArray[np.int64]
Floats = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Outlook:
    """How a track would do in a slot. `suits`: 0 to 100. `cost`: as the planner's score, None where no way is known.

    `grade`: of the worst seam, "" without any.
    """

    suits: int
    cost: float | None
    seams: int
    grade: str
    speed_change_pct: float
    hits_within_reach: int
    words: str


@dataclass(frozen=True, slots=True, eq=False)
class Forecast:
    """What the music of a track can come to: parallel arrays of the ways to its ending, shortest first.

    `played`: samples from the opening to the last hit; `cost`, `seams` and `worst_pct`, the percentile of the worst seam, of
    the cheapest way to that. `tail`: of its landing; `ring_out_samples` after the last hit; `beat_samples`: the usual beat, 0
    in free time; `room_samples`: all of its music. Without bars the arrays are empty.
    """

    rate: int
    played: Ints
    cost: Floats
    seams: NDArray[np.int32]
    worst_pct: Floats
    tail: Tail
    ring_out_samples: int
    beat_samples: int
    room_samples: int

    def at(self, length_samples: int, aims: Sequence[Aim] = ()) -> Outlook:
        """What to expect of a slot of some length, with these hits in it."""
        reachable = within_reach(aims, self.beat_samples)
        wanted = Wanted(length_samples - self.ring_out_samples, _GIVE, self.tail)
        near = slice(*np.searchsorted(self.played, [wanted.shortest_played, wanted.longest_played + 1]).tolist())
        if self.played[near].size == 0:
            return self._without_a_way(length_samples, reachable)
        total = self.cost[near] + wanted.cost(self.played[near])
        best = int(np.argmin(total)) + (near.start or 0)
        seams, over = int(self.seams[best]), int(self.played[best]) - wanted.samples
        speed_pct = 100 * float(over - self.tail.takes(np.array(over))) / max(1, wanted.samples)
        worst = grade(float(self.worst_pct[best])) if seams else ""
        length_min = max(1.0, length_samples / self.rate / 60)
        suits = 100 * 0.5 ** (float(total.min()) / (_HALVED_BY * np.sqrt(length_min)))
        suits *= share_with_hits(reachable, len(aims))
        cost = round(float(total.min()), 4)
        return Outlook(round(suits), cost, seams, worst, round(speed_pct, 2), reachable, _in_words(seams, worst, speed_pct))

    def _without_a_way(self, length_samples: int, reachable: int) -> Outlook:
        if SHORTEST_S * self.rate <= length_samples <= self.room_samples:
            return Outlook(round(_TRIMMED_SUITS), None, 0, "", 0.0, reachable, "only trimmed")
        return Outlook(0, None, 0, "", 0.0, reachable, "cannot be had")

    def to_bytes(self) -> bytes:
        """Stored form: its numbers and its ways, an .npy each. An .npz takes four times as long to read, and there are many."""
        out, ways = io.BytesIO(), np.empty(self.played.size, dtype=_WAY)
        for name in _WAY.fields or ():
            ways[name] = getattr(self, name)
        tail = [self.tail.early_samples, self.tail.silence_samples, self.tail.unheard_samples]
        np.save(out, np.array([self.rate, self.ring_out_samples, self.beat_samples, self.room_samples, *tail]))
        np.save(out, ways)
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Self:
        """Inverse of `to_bytes`."""
        stored = io.BytesIO(data)
        numbers, ways = np.load(stored, allow_pickle=False), np.load(stored, allow_pickle=False)
        rate, ring_out, beat, room, *tail = numbers.tolist()
        arrays = {name: np.ascontiguousarray(ways[name]) for name in ways.dtype.fields}
        return cls(rate=rate, tail=Tail(*tail), ring_out_samples=ring_out, beat_samples=beat, room_samples=room, **arrays)


def within_reach(aims: Sequence[Aim], beat_samples: int) -> int:
    """How many hits lie whole beats after the one before, give or take what give allows; none without a beat."""
    before, count = 0, 0
    for aim in sorted(aims, key=lambda a: a.at_samples) if beat_samples else ():
        span = aim.at_samples - before
        off = abs(span - max(1, round(span / beat_samples)) * beat_samples)
        if off <= _HIT_GIVE * span + aim.tolerance_samples:
            before, count = aim.at_samples, count + 1
    return count


def share_with_hits(reachable: int, count: int) -> float:
    """What is left of how well music suits a slot, of whose hits so many are within reach."""
    return 1 - _MISSED_SUITS * (1 - reachable / count) if count else 1.0


def forecast_of(offer: Offer) -> Forecast:
    """Weigh all lengths of a track up to twenty minutes. One search: some tenths of a second."""
    chart = offer.chart
    ring_out = chart.ring_out_end_samples - chart.last_hit_samples
    beat = 0 if chart.free_time or chart.beats.size < 2 else int(np.median(np.diff(chart.beats)))
    tail = Tail.of(chart, Brief(1)).with_margin(chart.rate)
    room = chart.ring_out_end_samples - chart.music_start_samples
    try:
        played, cost, seams, worst = _ways(offer)
    except NoPlanError:
        played, seams = np.empty(0, dtype=np.int64), np.empty(0, dtype=np.int32)
        cost = worst = np.empty(0, dtype=np.float32)
    return Forecast(chart.rate, played, cost, seams, worst, tail, ring_out, beat, room)


def _ways(offer: Offer) -> tuple[Ints, Floats, NDArray[np.int32], Floats]:
    """Played samples, cost, seams and worst percentile of the cheapest ways. Raises: NoPlanError without bars."""
    attempt = Attempt(0.0, DEFAULT_HOLD_BARS, short_bars=False)
    brief = Brief(1)
    edges = offer.edges(attempt.hold, attempt.short_bars, brief.listening)
    longest = round(LONGEST_S * offer.chart.rate)
    graph = graph_for(offer, brief, edges, openings_of(offer, brief, attempt))
    table = Ways(graph, longest, None).all_ways()
    percentiles = np.full(graph.to.size, 100.0, dtype=np.float32)
    percentiles[graph.seams] = offer.joins.sides.percentiles(edges.beat_from, edges.beat_to)
    edges_taken, worst = along_ways(table.came, table.taken, percentiles)
    seams = edges_taken - 1  # the first of them is the opening
    order = np.argsort(table.played, kind="stable")
    ends = table.ends[order]
    return table.played[order], table.cost[order], seams[ends], worst[ends]


def _in_words(seams: int, worst: str, speed_pct: float) -> str:
    """In as few words as a list has room for."""
    count = "as it is" if not seams else f"{seams} {worst}"
    return count if abs(speed_pct) < 0.1 else f"{count}, {abs(speed_pct):.1f} %"
