"""The steady tempo that meets a set of hits: every tempo of a range is tried, with the best start of bar one for each."""

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import BriefError
from evenseam.core.tempo._kernels_tempo import best_starts

Weight = Literal["must", "should", "nice"]
STEP_BPM = 0.01
SLOWEST_BPM, FASTEST_BPM = 20.0, 400.0
_MISSED = {"must": 1e6, "should": 1e3, "nice": 10.0}  # a must is never outweighed by any number of others
_OFF_A_SECOND = {"must": 3.0, "should": 2.0, "nice": 1.0}
_SAME_ANSWER = 0.004  # of a tempo: nearer ones are the same answer, and so are its halves and doubles
_SAME_COST_DECIMALS = 9
_MULTIPLES = (1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 2, 2, 3, 4)
MOST_HITS = 64
ANY_METERS = (4, 3, 5, 7)  # none of which has the bars of another; of equals the first
_CORES = min(4, os.cpu_count() or 1)
_ON_ANY_BEAT = ("beat", "last_hit")


@dataclass(frozen=True, slots=True)
class Struck:
    """A moment that a beat has to meet, in seconds; `on_downbeat`: the first of a bar, or any. `name`: what people call it."""

    at_s: float
    tolerance_s: float
    weight: Weight = "should"
    on_downbeat: bool = True
    name: str = ""

    @classmethod
    def by_kind(cls, at_s: float, tolerance_s: float, weight: Weight, kind: str, name: str = "") -> Self:
        """A hit of a kind: those that any beat meets, and those that the first of a bar has to."""
        return cls(at_s, tolerance_s, weight, kind not in _ON_ANY_BEAT, name)


@dataclass(frozen=True, slots=True)
class Steady:
    """A tempo, where its bar one starts, and what it makes of each hit: how far off, on which bar and beat (from 1).

    `also_bpm`: whole and half tempi of the same answer.
    """

    bpm: float
    meter: int
    starts_s: float
    off_s: tuple[float, ...]
    places: tuple[tuple[int, int], ...]
    is_met: tuple[bool, ...]
    cost: float
    also_bpm: tuple[float, ...] = ()


def find_steady(
    hits: Sequence[Struck],
    low_bpm: float,
    high_bpm: float,
    meter: int | None = 4,
    starts_s: float | None = None,
    count: int = 8,
) -> tuple[Steady, ...]:
    """The tempi that meet the hits best, best first. `starts_s`: where bar one starts, None for anywhere.

    `meter`: beats of a bar, None for whichever of `ANY_METERS` suits a tempo best. Exact for the cost: what is missed by its
    weight, then how far off the hits are. Raises: BriefError.
    """
    _check(hits, low_bpm, high_bpm, ANY_METERS[0] if meter is None else meter)
    meters = ANY_METERS if meter is None else (meter,)
    found = [one for beats in meters for one in _in_meter(hits, low_bpm, high_bpm, beats, starts_s, count)]
    kept: list[Steady] = []
    for one in sorted(found, key=lambda one: round(one.cost, _SAME_COST_DECIMALS)):
        if all(abs(one.bpm - other.bpm) >= _SAME_ANSWER * max(one.bpm, other.bpm) for other in kept):
            kept.append(one)
    return tuple(kept[:count])


def _in_meter(
    hits: Sequence[Struck], low_bpm: float, high_bpm: float, meter: int, starts_s: float | None, count: int
) -> tuple[Steady, ...]:
    bpm = np.round(np.arange(low_bpm, high_bpm + STEP_BPM / 2, STEP_BPM), 2)
    at, tolerance = (np.array([getattr(h, name) for h in hits], dtype=np.float64) for name in ("at_s", "tolerance_s"))
    unit = np.array([meter if h.on_downbeat else 1 for h in hits], dtype=np.int64)
    missed, weight = (np.array([table[h.weight] for h in hits], dtype=np.float64) for table in (_MISSED, _OFF_A_SECOND))
    fixed = -1.0 if starts_s is None else float(starts_s)
    parts = np.array_split(60 / bpm, _CORES)  # the kernel lets others run, and no tempo needs another
    with ThreadPoolExecutor(_CORES) as threads:
        found = threads.map(lambda periods: best_starts(periods, at, tolerance, unit, missed, weight, meter, fixed), parts)
        cost, start = (np.concatenate(values) for values in zip(*found, strict=True))
    return tuple(
        _answer(hits, unit, float(bpm[k]), float(start[k]), float(cost[k]), meter, also) for k, also in _apart(bpm, cost, count)
    )


def _check(hits: Sequence[Struck], low_bpm: float, high_bpm: float, meter: int) -> None:
    if not 1 <= len(hits) <= MOST_HITS:
        words = f"A tempo is looked for by 1 to {MOST_HITS} hits. Mark the moments it has to meet, or fewer of them."
        raise BriefError(words, hits=len(hits))
    if not SLOWEST_BPM <= low_bpm < high_bpm <= FASTEST_BPM:
        raise BriefError(f"The range has to lie within {SLOWEST_BPM:g} and {FASTEST_BPM:g} bpm, the lower one first.")
    if not 1 <= meter <= 12:
        raise BriefError("A bar has 1 to 12 beats.", meter=meter)


def _apart(bpm: NDArray[np.float64], cost: NDArray[np.float64], count: int) -> list[tuple[int, tuple[float, ...]]]:
    """The best tempi that are answers of their own, and the halves and doubles of each that cost as much or more."""
    kept: list[tuple[int, list[float]]] = []
    taken: list[float] = []
    for k in np.argsort(np.round(cost, _SAME_COST_DECIMALS), kind="stable").tolist():  # of equals the slower one first
        tempo = float(bpm[k])
        if any(abs(tempo - other) < _SAME_ANSWER * max(tempo, other) for other in taken):
            continue
        same = next((also for other, also in kept if _is_multiple(tempo / float(bpm[other]))), None)
        if same is not None:
            same.append(tempo)
        elif len(kept) < count:
            kept.append((k, []))
        else:
            break
        taken.append(tempo)
    return [(k, tuple(sorted(also))) for k, also in kept]


def _is_multiple(ratio: float) -> bool:
    return any(abs(ratio / multiple - 1) < _SAME_ANSWER for multiple in _MULTIPLES)


def _answer(
    hits: Sequence[Struck], unit: NDArray[np.int64], bpm: float, start: float, cost: float, meter: int, also: tuple[float, ...]
) -> Steady:
    period = 60 / bpm
    off, places = [], []
    for hit, beats in zip(hits, unit.tolist(), strict=True):
        nearest = round((hit.at_s - start) / (period * beats)) * beats
        off.append(start + nearest * period - hit.at_s)
        places.append((nearest // meter + 1, nearest % meter + 1))
    is_met = tuple(abs(o) <= h.tolerance_s + 1e-9 for o, h in zip(off, hits, strict=True))
    return Steady(bpm, meter, start, tuple(off), tuple(places), is_met, cost, also)
