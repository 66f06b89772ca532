"""Which beat lands on which moment, so that the tempo hardly moves: the best of all choices, by dynamic programming.

Greedy choices from left to right spend the range of the tempo on the first moments and then miss the last; here every
choice is weighed with all that follow it.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields
from functools import partial

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Moment:
    """A moment of the output that one of some places of the track is to meet; `missed_cost`: of passing it over.

    `places`: samples of the track, int64 (places,), rising. Within `tolerance_samples` it is met without any bending.
    """

    at_samples: int
    places: Ints
    missed_cost: float
    tolerance_samples: int = 0


@dataclass(frozen=True, slots=True)
class Held:
    """A place of the track that is held to a place of the output. `moment`: the number of the one it meets, -1 for none."""

    source_samples: int
    out_samples: int
    moment: int = -1


@dataclass(frozen=True, slots=True, eq=False)
class _Ways:
    """The cheapest way to each place that meets a moment: its cost, where it lands, and the moment and place before it."""

    source: Ints
    out: Ints
    cost: Floats
    moment_before: Ints
    place_before: Ints


_Cost = Callable[[_Ways, Ints, Ints], Floats]


def chosen(
    start: Held, moments: Sequence[Moment], end: Held | None, give: float, cost_per_sample: float
) -> tuple[Held, ...] | None:
    """What is held from `start` to `end` so that no stretch changes its speed by more than `give` (a fraction).

    `end`: None where the music may be left anywhere. A sample that is one per cent too fast or too slow costs
    `cost_per_sample`, and by the square of the per cents more; what is missed costs as it says. Returns: the held places in
    order, or None where the end cannot be reached. O(moments^2 * places^2), the places being those within reach of give.
    """
    first = _Ways(*(np.array([n]) for n in (start.source_samples, start.out_samples, 0.0, -1, -1)))
    ways = [first]
    bending = partial(_bending, give=give, cost_per_sample=cost_per_sample)
    for number in range(len(moments)):
        ways.append(_to(number, ways, moments, give, bending))
    last = _last(ways, moments, end, bending)
    if last is None:
        return None
    number, place = last
    held = [end] if end else []
    while number >= 0:
        way = ways[number + 1]
        held.append(Held(int(way.source[place]), int(way.out[place]), number))
        number, place = int(way.moment_before[place]), int(way.place_before[place])
    return (start, *reversed(held))


def _to(number: int, ways: list[_Ways], moments: Sequence[Moment], give: float, bending: _Cost) -> _Ways:
    """The cheapest ways to the places of a moment, from any moment before it: `ways`, those from the start first."""
    moment, first = moments[number], ways[0]
    lasts, played = moment.at_samples - int(first.out[0]), moment.places - int(first.source[0])
    reach = give * lasts + moment.tolerance_samples
    near = moment.places[np.abs(played - lasts) <= reach]
    best = _Ways(near, np.full(near.size, moment.at_samples), *(np.full(near.size, value) for value in (np.inf, -1, -1)))
    missed = 0.0
    for before in range(number - 1, -2, -1):
        if ways[before + 1].source.size and near.size:
            best = _cheaper(best, _from(ways[before + 1], before, near, moment, missed, bending))
        missed += moments[before].missed_cost if before >= 0 else 0.0
    kept = np.isfinite(best.cost)
    return _Ways(*(getattr(best, f.name)[kept] for f in fields(best)))


def _from(ways: _Ways, before: int, near: Ints, moment: Moment, missed: float, bending: _Cost) -> _Ways:
    """The cheapest ways to some places straight from the places of one moment."""
    own = near[None, :] - ways.source[:, None] + ways.out[:, None]  # where its own speed brings each place
    lands = np.where(np.abs(own - moment.at_samples) <= moment.tolerance_samples, own, moment.at_samples)
    total = ways.cost[:, None] + missed + bending(ways, near, lands)
    best, at = np.argmin(total, axis=0), np.arange(near.size)
    return _Ways(near, lands[best, at], total[best, at], np.full(near.size, before), best)


def _cheaper(one: _Ways, other: _Ways) -> _Ways:
    """Of two ways to each place the cheaper one."""
    better = other.cost < one.cost
    return _Ways(*(np.where(better, getattr(other, f.name), getattr(one, f.name)) for f in fields(one)))


def _bending(ways: _Ways, source: Ints, out: Ints, give: float, cost_per_sample: float) -> Floats:
    """What the stretches from each place to each other one cost; infinite where they go further than give."""
    played, lasts = source[None, :] - ways.source[:, None], out - ways.out[:, None]
    change = np.divide(played, lasts, out=np.full(lasts.shape, np.inf), where=lasts > 0) - 1
    with np.errstate(invalid="ignore", over="ignore"):
        cost = cost_per_sample * lasts * np.square(100 * change)
    return np.where((np.abs(change) <= give) & (played > 0), cost, np.inf)


def _last(ways: list[_Ways], moments: Sequence[Moment], end: Held | None, bending: _Cost) -> tuple[int, int] | None:
    """The moment and place from which the cheapest way goes to the end."""
    best, found, missed = np.inf, None, 0.0
    for number in range(len(moments) - 1, -2, -1):
        way = ways[number + 1]
        if way.source.size:
            total = way.cost + missed
            if end is not None:
                total = total + bending(way, np.array([end.source_samples]), np.array([[end.out_samples]]))[:, 0]
            place = int(np.argmin(total))
            if total[place] < best:
                best, found = float(total[place]), (number, place)
        missed += moments[number].missed_cost if number >= 0 else 0.0
    return found
