"""Path search through hits: the music is to have certain places of the track sound at certain moments.

Ways are looked for from hit to hit. Each stage starts where the one before met its hit, at every bar that can follow, and its
ways are found by the labels of `labels.py`; give is spent by each stretch between two hits for itself. Ways that meet a hit in
bars that a seam has to play on are followed as well. What a hit that is missed costs is paid by passing it over. Everywhere a
way counts for what it has cost and what is ahead of it at least (`ahead.py`).
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from heapq import nsmallest
from itertools import accumulate
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search.ahead import Ahead
from evenseam.core.plan.search.alternates import different
from evenseam.core.plan.search.labels import Route, Wanted
from evenseam.core.plan.search.legs import Legs
from evenseam.core.plan.search.openings import Openings
from evenseam.core.plan.search.stages import MUST_COST, End, EndAnew, Group, StageTable, Waypoint, of_all

_PASSED_OVER = 2  # hits in a row, before more are
_TRIED_PER_ROUTE = 8
_FEW_ROUTES = 4  # to follow more of them back at every step takes longer than what they then spare
_FURTHER = (2.0, 4.0, np.inf)  # times the bounds, where no way within them comes to its end
_CLOSE_ENDS = (2.0, 3.5)  # times what any hit may cost more

Costs = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Bounds:
    """Which ways are followed: none dearer than the cheapest start of their stage by `beyond`, and none dearer than `most`.

    `beyond_must` in the place of `beyond` on the way to a hit that must be met, `beyond_end` on the way to the end.
    """

    beyond: float
    beyond_must: float
    beyond_end: float
    most: float = np.inf

    @property
    def close(self) -> Self:
        """Those in which most ways that meet all hits are found, a must being no dearer than another hit."""
        return replace(self, beyond_must=self.beyond, beyond_end=min(self.beyond_end, _CLOSE_ENDS[0] * self.beyond))

    def further(self, by: float) -> Self:
        """Those within which ways are found where others come to no end, so many times as far."""
        beyond, must, end = (by * far for far in (self.beyond, self.beyond_must, self.beyond_end))
        return replace(self, beyond=beyond, beyond_must=must, beyond_end=end)


# What was found of the ways that meet all hits: the cheapest routes, within which bounds, what the cheapest start of each stage
# costs, and the table of each.
_AllMet = tuple[tuple[Route, ...], Bounds, Costs, list[StageTable]]


class Passing:
    """The ways through one graph past waypoints, which are in order of time.

    `lasts_samples`: how long they are to last until the last hit, about. `most_seams`: None for any number. `anew`: where the
    music may start anew on a hit without keeping the beat, if it may; `returns`: where it may come back after a silence.
    `ending`: straight into its last hit, if it may. `forward`: the music goes back to nothing that it has passed.
    """

    def __init__(
        self,
        ahead: Ahead,
        waypoints: tuple[Waypoint, ...],
        lasts_samples: int,
        most_seams: int | None,
        anew: Openings | None = None,
        returns: Openings | None = None,
        ending: EndAnew | None = None,
        forward: bool = False,
    ) -> None:
        self._legs = Legs(ahead, waypoints, lasts_samples, most_seams, anew, returns, ending, forward)
        self._all_met: dict[tuple[Wanted, int, Bounds], _AllMet] = {}

    def may_last(self, wanted: Wanted) -> bool:
        """Whether as many seams as there may be draw the music out for long enough."""
        return self._legs.may_last(wanted)

    @property
    def seams_are_short(self) -> bool:
        """Whether the cheapest way has more seams than there may be, as far as can be told before it is looked for."""
        return self._legs.seams_are_short

    def routes(self, wanted: Wanted, count: int, bounds: Bounds, may_miss: float = np.inf) -> tuple[Route, ...]:
        """Up to `count` routes that end in time and meet what is worth it, cheapest first; none if there is none, or
        where ways of `bounds.most` are known none that was found near the cheapest.

        `wanted`: of the whole, its give holding for every stretch between two hits. `may_miss`: ways on which what is missed
        costs more need not be found.
        """
        missed = sorted(waypoint.missed_cost for waypoint in self._legs.waypoints)
        least_missed = min(missed, default=np.inf)
        all_met, bounds, least, tables = self._all_that_meet(wanted, count, bounds)
        misses_at_least = least_missed + float(self._legs.opening(wanted).cost[0])
        if (all_met and all_met[-1].cost <= misses_at_least) or (not all_met and may_miss < least_missed):
            return all_met  # no way that misses one of them is cheaper, or does
        if len(all_met) == count:
            bounds = replace(bounds, most=all_met[-1].cost)
        for reach, within in _tried(missed, bounds, may_miss):
            others = _Sweep(self._legs, wanted, count, reach, within, least.copy(), tables.copy()).routes()
            if found := different([*all_met, *others], count):
                return tuple(found)
        return ()

    def _all_that_meet(self, wanted: Wanted, count: int, bounds: Bounds) -> _AllMet:
        """The routes that meet all hits, within close bounds if they can be had there."""
        key = wanted, count, bounds
        if key not in self._all_met:
            has_musts = any(waypoint.is_must for waypoint in self._legs.waypoints)
            for within in (bounds.close, bounds) if has_musts else (bounds,):
                least = np.full(len(self._legs.waypoints) + 1, np.inf)
                sweep = _Sweep(self._legs, wanted, count, 0, within, least, [])
                self._all_met[key] = sweep.routes(), within, least, sweep.tables
                if self._all_met[key][0]:
                    break
        return self._all_met[key]


def _tried(missed: Sequence[float], bounds: Bounds, may_miss: float) -> Iterator[tuple[int, Bounds]]:
    """How many hits in a row are passed over, and within which bounds, until a way is found; `missed`: what each costs."""
    n = len(missed)
    if may_miss < np.inf and all(cost >= MUST_COST for cost in missed):
        # What misses one more costs more than all else together.
        yield int(may_miss // MUST_COST), replace(bounds, most=min(bounds.most, may_miss + MUST_COST))
        return
    yield min(_PASSED_OVER, n), bounds
    if n > _PASSED_OVER:
        yield n, bounds
    if np.isinf(bounds.most):  # else there is one, within less
        for by in _FURTHER:
            yield n, bounds.further(by)


def _in_order(end: End) -> tuple[float, int, int, int]:
    return end.cost, end.played_samples, end.table, end.state


class _Sweep:
    """One search from the opening to the end, past no more than `reach` hits in a row that are missed.

    `least`: (stages,), what the cheapest start of each is known to cost at most; changed. `tables`: those of the ways that meet
    all hits, stage by stage, where they are known: what costs no less is not looked for again. Others are added to them.
    """

    def __init__(
        self, legs: Legs, wanted: Wanted, count: int, reach: int, bounds: Bounds, least: Costs, tables: list[StageTable]
    ) -> None:
        self._legs, self._wanted, self._count, self._reach, self._bounds = legs, wanted, count, reach, bounds
        self._least, self.tables, self._known = least, tables, tuple(tables)
        self._last = len(legs.waypoints)
        self._looked_at = 1 if count == 1 else _TRIED_PER_ROUTE * count  # ends, for routes that have other seams
        self._cheapest: list[float] = []  # what they cost
        self._enough = np.inf  # what ways may cost that are to be among them
        self._groups: list[list[Group]] = [[] for _ in range(self._last + 1)]
        self._ends: list[End] = []

    def routes(self) -> tuple[Route, ...]:
        """Up to `count` of the cheapest, each with other seams."""
        if not self._known:
            self._groups[0].append(Group(self._legs.opening(self._wanted)))
        for stage in range(self._last + 1):
            known = self._gone_on(stage)
            for group in sorted(self._together(stage, known is not None), key=lambda group: group.starts.least_cost):
                self._follow(stage, group, None if group.passed else known)
        return self._routes_of(self._ends, self.tables)

    def _routes_of(self, ends: list[End], tables: list[StageTable]) -> tuple[Route, ...]:
        """The cheapest routes of some ends, as many as are wanted, each with other seams."""
        routes: dict[tuple[tuple[int, int], ...], Route] = {}
        for end in nsmallest(self._looked_at, ends, key=_in_order):
            route = self._legs.traced(end, tables)
            routes.setdefault(route.seams, route)
            if len(routes) == self._count:
                break
        return tuple(routes.values())

    def _gone_on(self, stage: int) -> StageTable | None:
        """The known table of a stage, gone on from, or none: one that has left ways which are to be followed is made anew."""
        if stage >= len(self._known):
            return None
        known = self._known[stage]
        group = Group(known.begun)
        most = self._most(group, stage)
        if known.most < most:
            self._groups[stage].append(group)
            return None
        self._go_on(known, group, most, stage + 1)
        return known

    def _follow(self, stage: int, group: Group, known: StageTable | None) -> None:
        """Follow the ways of a group until their hit, and go on from there; only what is cheaper than is known."""
        if not group.passed:
            self._least[stage] = min(self._least[stage], group.starts.least_cost)
        most = self._most(group, stage)
        if group.passed and group.starts.least_cost > most:
            return
        table = self._near_end(group, most, known) if stage == self._last else None
        if table is None:
            table = self._legs.followed(len(self.tables), stage, group.starts, self._wanted, most, known)
        self.tables.append(table)
        self._go_on(table, group, most, stage)

    def _near_end(self, group: Group, most: float, known: StageTable | None) -> StageTable | None:
        """The table of the cheapest ways of a group to the end, if enough of them end there: then no dearer one is cheaper."""
        for times in _CLOSE_ENDS if self._count <= _FEW_ROUTES else ():
            close = group.starts.least_cost + times * self._bounds.beyond
            if close >= most:
                return None
            table = self._legs.followed(len(self.tables), self._last, group.starts, self._wanted, close, known)
            ends = [end for end in self._ends_of(table) if end.cost <= close]
            if len(self._routes_of(ends, [*self.tables, table])) == self._count:
                return table
        return None

    def _ends_of(self, table: StageTable) -> list[End]:
        return [*self._legs.ends(table, self._wanted), *self._legs.ends_anew(table, self._wanted)]

    def _go_on(self, table: StageTable, group: Group, most: float, first: int) -> None:
        """From a table to the stages after it: meet a hit from number `first` on, start anew on it, or pass it over."""
        stage, missed, wanted, most_of_all = table.stage, 0.0, self._wanted, self._bounds.most
        for number in range(stage, min(self._last, stage + 1 + self._reach - group.passed)):
            if number > stage and not self._legs.may_sound(table, number, wanted.give):
                break
            if number >= first:
                most_met = min(most, most_of_all - missed), self._bound(number + 1) - missed
                self._groups[number + 1] += self._met(table, number, most_met, missed)
            missed += self._legs.waypoints[number].missed_cost
        if stage < self._last and (group.passed < self._reach or (self._reach > 0 and stage == self._last - 1)):
            missed = self._legs.waypoints[stage].missed_cost
            carried = self._legs.passed_over(table, min(most, most_of_all - missed))
            if carried is not None:
                passed_must = group.passed_must or missed >= MUST_COST
                self._groups[stage + 1].append(Group(carried, group.passed + 1, passed_must))
        if self._reach > 0 or stage == self._last:
            ends = self._ends_of(table)
            self._ends += ends
            self._cheapest = nsmallest(self._looked_at, [*self._cheapest, *(end.cost for end in ends)])
            self._enough = self._enough_at(stage)

    def _enough_at(self, stage: int) -> float:
        """What ways may cost that are to be among the cheapest, as far as their ends are known."""
        if stage == self._last and 1 < self._count <= _FEW_ROUTES:
            routes = self._routes_of(self._ends, self.tables)
            if len(routes) == self._count:
                return routes[-1].cost
        return self._cheapest[-1] if len(self._cheapest) == self._looked_at else np.inf

    def _met(self, table: StageTable, number: int, most: tuple[float, float], missed: float) -> Iterator[Group]:
        """Where ways go on that have met a hit, keeping the beat or not."""
        for starts in (
            self._legs.meets(table, number, self._wanted, most, missed),
            self._legs.meets_at_once(table, number, self._wanted, most[0], missed),
            self._legs.starts_anew(table, number, self._wanted, missed),
        ):
            if starts is not None:
                yield Group(starts)

    def _together(self, stage: int, is_known: bool) -> list[Group]:
        """The groups of a stage that have to be followed each by itself.

        Ways that have passed over hits go with those that have met the last one, where they can do nothing that those cannot:
        of those that come to a bar at once, the cheaper ones are followed.
        """
        met = [group for group in self._groups[stage] if not group.passed]
        rest = [group for group in self._groups[stage] if group.passed]
        if (met or is_known) and self._legs.is_within_give(stage, self._wanted):
            met += [group for group in rest if not group.passed_must]
            rest = [group for group in rest if group.passed_must]
        alike = [[group for group in rest if group.passed == passed] for passed in sorted({group.passed for group in rest})]
        joined = [Group(of_all([g.starts for g in same]), same[0].passed, any(g.passed_must for g in same)) for same in alike]
        return [Group(of_all([group.starts for group in met])), *joined] if met else joined

    def _beyond(self, stage: int) -> float:
        """By how much the ways of a stage may cost more than its cheapest start."""
        if stage == self._last:
            return self._bounds.beyond_end
        return self._bounds.beyond_must if self._legs.waypoints[stage].is_must else self._bounds.beyond

    def _bound(self, stage: int) -> float:
        """What the ways of a stage may cost that have met the hit before it."""
        return min(float(self._least[stage]) + self._beyond(stage), self._bounds.most)

    def _most(self, group: Group, stage: int) -> float:
        """What the ways of a group may cost, so that none is followed that leads to nothing."""
        most = min(self._bound(stage), self._enough)
        if group.passed:
            beyond = self._bounds.beyond_end if stage == self._last else self._bounds.beyond
            most = min(group.starts.least_cost + beyond, self._bounds.most, self._enough)
        after = range(stage + 1, stage + 2 + self._reach - group.passed)
        if after.stop > self._last:
            return most
        missed = [0.0, *accumulate(w.missed_cost for w in self._legs.waypoints[stage:])]
        return min(most, max(self._bound(k) - passed for k, passed in zip(after, missed, strict=False)))
