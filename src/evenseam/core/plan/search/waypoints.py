"""Path search through hits: the music is to have certain places of the track sound at certain moments.

Ways are looked for from hit to hit. Each stage starts where the one before met its hit, at every bar that can follow, and its
ways are found by the labels of `labels.py`; give is spent by each stretch between two hits for itself. Ways that meet a hit in
bars that a seam has to play on are followed as well. What a hit that is missed costs is paid by passing it over.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.alternates import different
from evenseam.core.plan.search._kernels import cheapest_labels, places_met
from evenseam.core.plan.search.labels import SPEED_COST, STRETCH_COST_PER_PCT2, Anew, Met, Route, Wanted, always
from evenseam.core.plan.search.limits import OUT_OF_REACH
from evenseam.core.plan.search.openings import Graph, Openings
from evenseam.core.plan.search.stages import MUST_COST, End, EndAnew, StageTable, Starts, Waypoint, back, of_all

_QUANTA_PER_BAR = 16
_MOST_STATES = 10_000  # of one stage
LEAST_SPAN_SHARE = 0.25  # of the whole: a change of speed is noticed however short it is
_PASSED_OVER = 2  # hits in a row, before more are
_TRIED_PER_ROUTE = 8
_MOST_COUNTED = 40
_INSIDE_BAR_COST = 6.0  # of stopping for a silence, by the share of a bar to the nearest bar line
_ANEW = -2  # edges from here down are no seams of the graph: the music starts anew, at the next of its openings each


@dataclass(frozen=True, slots=True)
class Bounds:
    """Which ways are followed: none dearer than the cheapest start of their stage by `beyond`, and none dearer than `most`.

    `beyond_must` in the place of `beyond` on the way to a hit that must be met, or to the end.
    """

    beyond: float
    beyond_must: float
    most: float = np.inf

    def from_starts(self, starts: Starts, is_to_must: bool) -> np.float32:
        """What ways of a stage may cost."""
        beyond = self.beyond_must if is_to_must else self.beyond
        return np.float32(min(starts.cost.min() + np.float32(beyond), self.most))


class Passing:
    """The ways through one graph past waypoints, which are in order of time.

    `most_seams`: None for any number. `anew`: where the music may start anew on a hit without keeping the beat, if it may;
    `returns`: where it may come back after a silence. `ending`: straight into its last hit, if it may. `forward`: the music
    goes back to nothing that it has passed.
    """

    def __init__(
        self,
        graph: Graph,
        waypoints: tuple[Waypoint, ...],
        most_seams: int | None,
        anew: Openings | None = None,
        returns: Openings | None = None,
        ending: EndAnew | None = None,
        forward: bool = False,
    ) -> None:
        self.graph, self._waypoints, self._ending, self._forward = graph, waypoints, ending, forward
        self._entries = tuple(anew if waypoint.until_samples is None else returns for waypoint in waypoints)
        self._longest_move = int(graph.samples.max(initial=0)) + graph.usual_step
        self._most_debt = int((graph.to - graph.bar_entered).max(initial=0)) + 1
        bars = np.arange(graph.at.size + 1)
        self._first_places = tuple(np.searchsorted(w.bar, bars).astype(np.int64) for w in waypoints)
        # An opening is counted like a seam, and so is a fade.
        self._width = 1 if most_seams is None else min(most_seams, _MOST_COUNTED) + 2 + graph.fades
        self._all_met: dict[tuple[Wanted, int, Bounds], tuple[Route, ...]] = {}

    def routes(self, wanted: Wanted, count: int, bounds: Bounds, may_miss: float = np.inf) -> tuple[Route, ...]:
        """Up to `count` routes that end in time and meet what is worth it, cheapest first; none if there is none.

        `wanted`: of the whole, its give holding for every stretch between two hits. `may_miss`: ways on which what is missed
        costs more need not be found.
        """
        n, cheapest_missed = len(self._waypoints), min((w.missed_cost for w in self._waypoints), default=np.inf)
        key = wanted, count, bounds
        all_met = self._all_met[key] = self._all_met[key] if key in self._all_met else self._found(wanted, 0, count, bounds)
        if (all_met and all_met[-1].cost <= cheapest_missed) or (not all_met and may_miss < cheapest_missed):
            return all_met  # no way that misses one of them is cheaper, or does
        if may_miss < MUST_COST <= cheapest_missed:
            return tuple(r for r in all_met if len(r.met) == n)  # the last one can be missed as well: none lies after it
        if len(all_met) == count:
            bounds = replace(bounds, most=all_met[-1].cost)
        for reach in sorted({min(_PASSED_OVER, n), n}):
            if found := different([*all_met, *self._found(wanted, reach, count, bounds)], count):
                return tuple(found)
        return ()

    def _found(self, wanted: Wanted, reach: int, count: int, bounds: Bounds) -> tuple[Route, ...]:
        n = len(self._waypoints)
        starts: list[list[Starts]] = [[] for _ in range(n + 1)]
        starts[0] = [self._opening()]
        begun: dict[int, Starts] = {}
        tables: dict[int, StageTable] = {}
        ends: list[End] = []
        for stage in range(n + 1):
            if not starts[stage]:
                continue
            begun[stage] = of_all(starts[stage])
            missed, last = 0.0, min(n, stage + 1 + reach)
            to_end = stage == n or (reach > 0 and last == n)  # the end has to be met like a must
            bound = bounds.from_starts(begun[stage], to_end or any(hit.is_must for hit in self._waypoints[stage:last]))
            bounds_at = self._bounds_at(begun[stage], stage, last, wanted.give, bound, bounds.most)
            tables[stage] = table = self._table(begun[stage], self._latest(last, wanted), bounds_at)
            for number in range(stage, last):
                for met in (
                    self._meets(table, begun[stage], stage, number, wanted.give, min(bound, np.float32(bounds.most - missed))),
                    self._starts_anew(table, begun[stage], stage, number),
                ):
                    if met is not None:
                        starts[number + 1].append(replace(met, cost=met.cost + np.float32(missed)))
                missed += self._waypoints[number].missed_cost
            if last == n:
                ends += self._ends(stage, table, begun[stage], wanted, missed)
        ends.sort(key=lambda end: (end.cost, end.played_samples, end.stage, end.state))
        routes: dict[tuple[tuple[int, int], ...], Route] = {}
        for end in ends[: _TRIED_PER_ROUTE * count]:
            route = self._traced(end, begun, tables)
            routes.setdefault(route.seams, route)
            if len(routes) == count:
                break
        return tuple(routes.values())

    def _opening(self) -> Starts:
        node, samples, layer, cost = self.graph.from_start()
        nowhere = np.full(1, -1, dtype=np.int64)
        return Starts(node, samples, layer, cost, np.zeros(1, dtype=np.int64), nowhere, nowhere, nowhere, nowhere)

    def _latest(self, last: int, wanted: Wanted) -> int:
        """Up to which sample a table has to reach that is looked at for the waypoints before `last`, and perhaps the end."""
        if last == len(self._waypoints):
            return wanted.longest_played - self.graph.to_hit_samples + 1
        at = self._waypoints[last - 1]
        return int(at.at_samples * (1 + wanted.give)) + at.tolerance_samples + 1

    def _bounds_at(
        self, begun: Starts, stage: int, last: int, give: float, bound: np.float32, most: float
    ) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
        """What ways of a stage may cost from when on: past a hit that they have not met, less by what it costs."""
        if not np.isfinite(most):
            return always(bound)
        hits, base = self._waypoints[stage:last], int(begun.samples.min())
        late = [hit.at_samples + hit.tolerance_samples + int(give * (hit.at_samples - begun.since.min())) for hit in hits]
        missed = np.cumsum([0.0, *(hit.missed_cost for hit in hits)])
        return np.array([0, *late]) - base, np.minimum(bound, most - missed).astype(np.float32)

    def _table(self, starts: Starts, latest: int, bounds: tuple[NDArray[np.int64], NDArray[np.float32]]) -> StageTable:
        base, graph = int(starts.samples.min()), self.graph
        limit = max(1, latest - base)
        quantum = graph.quantum(limit, _MOST_STATES // self._width, _QUANTA_PER_BAR)
        cost, at, came, taken = cheapest_labels(
            graph.steps,
            graph.first,
            graph.to,
            graph.samples,
            graph.cost,
            graph.bar_entered,
            (starts.node, starts.samples - base, starts.layer, starts.cost),
            graph.end,
            limit,
            quantum,
            bounds,
            self._width if self._width > 1 else 0,
            graph.shape.for_kernel(base),
        )
        shape = (-1, graph.at.size, self._width)
        return StageTable(cost.reshape(shape), at.reshape(shape), came, taken, base, quantum)

    def _meets(
        self, table: StageTable, begun: Starts, stage: int, number: int, give: float, bound: np.float32
    ) -> Starts | None:
        """Where ways may go on from that have met a waypoint; None where it cannot be met."""
        hit, graph = self._waypoints[number], self.graph
        span = max(1, hit.at_samples - int(begun.since.max()))
        reach = hit.tolerance_samples + int(give * span)
        shape = (graph.at.size, self._most_debt + 1, self._width)
        cost = np.full(shape, np.inf, dtype=np.float32)
        best: tuple[NDArray[Any], ...] = (cost, *(np.zeros(shape, dtype=np.int64) for _ in range(5)))
        places_met(
            table.cost,
            table.at,
            table.base,
            table.buckets_near(hit.at_samples - reach - self._longest_move, hit.at_samples + reach),
            (graph.at, graph.steps),
            (graph.first, graph.to, graph.cost, graph.left, graph.entered, graph.bar_entered),
            (hit.into, self._first_places[number]),
            graph.end,
            (hit.at_samples - reach, hit.at_samples + reach),
            (hit.at_samples, hit.tolerance_samples, float(span), *self._speed_cost(span)),
            bound,
            graph.shape.for_kernel(0),
            best,
        )
        at = np.nonzero(np.isfinite(cost))
        if not at[0].size:
            return None
        cost, landed, goes_on, place, state, edge = (values[at] for values in best)
        source = graph.at[hit.bar[place]] + hit.into[place]
        return Starts(at[0], goes_on, at[2], cost, landed, np.full(cost.size, stage), state, edge, source)

    def _starts_anew(self, table: StageTable, begun: Starts, stage: int, number: int) -> Starts | None:
        """Where ways may go on from that break off at a waypoint and start anew there; None where that is not allowed."""
        hit, graph, anew = self._waypoints[number], self.graph, self._entries[number]
        broken = self._broken_off(table, begun, hit.at_samples, hit.until_samples) if anew is not None else None
        if anew is None or broken is None:
            return None
        cost, state = broken
        is_free = anew.bar > state // self._width % graph.at.size if self._forward else np.ones(anew.to.size, dtype=bool)
        if hit.until_samples is None:
            is_free &= np.isin(anew.bar, hit.bar[hit.into == 0])
        free = np.flatnonzero(is_free)
        if not free.size:
            return None
        to, bar = anew.to[free], anew.bar[free]
        samples = hit.goes_on_samples + graph.at[to] - graph.at[bar]
        layer = state % self._width + (self._width > 1)
        layers, since, stages, states = (np.full(to.size, value) for value in (layer, hit.goes_on_samples, stage, state))
        total = np.float32(cost) + anew.cost[free]
        return Starts(to, samples, layers, total, since, stages, states, _ANEW - free, graph.at[bar])

    def _broken_off(
        self, table: StageTable, begun: Starts, at_samples: int, until_samples: int | None = None
    ) -> tuple[float, int] | None:
        """Cost and state of the cheapest way that plays at a moment and may be broken off there, if there is one.

        Before a silence the nearer to a bar line the better.
        """
        graph = self.graph
        if at_samples - int(begun.since.max()) < graph.usual_step // 2:
            return None
        first, last = table.buckets_near(at_samples - self._longest_move, at_samples)
        now = table.at[first:last] + table.base
        plays = (now <= at_samples) & (now + graph.steps[:, None] > at_samples)
        plays[:, [graph.end, graph.start]] = False
        plays &= graph.steps[:, None] < OUT_OF_REACH
        cost = np.where(plays, table.cost[first:last], np.inf)
        if until_samples is not None:
            into = (at_samples - now) / np.maximum(1, graph.steps[:, None])
            cost = cost + _INSIDE_BAR_COST * np.minimum(np.abs(into), np.abs(1 - into))
        if self._width > 1:
            cost[..., -1 - graph.fades :] = np.inf  # a start anew is counted like a seam
        if not cost.size or not np.isfinite(cost).any():
            return None
        best = int(np.argmin(cost))
        return float(cost.flat[best]), first * graph.at.size * self._width + best

    def _speed_cost(self, span: int) -> tuple[float, float]:
        """Of any change of speed over a span, and of the square of its per cents."""
        share = max(LEAST_SPAN_SHARE, span / max(span, self._waypoints[-1].at_samples))
        return SPEED_COST * share, STRETCH_COST_PER_PCT2 * share

    def _ends(self, stage: int, table: StageTable, begun: Starts, wanted: Wanted, missed: float) -> list[End]:
        """The ways that end in time."""
        end = self.graph.end
        at_end = table.cost[:, end]
        bucket, layer = np.nonzero(np.isfinite(at_end))
        played = table.at[bucket, end, layer] + table.base + self.graph.to_hit_samples
        last = replace(wanted, pinned_samples=int(begun.since.max()))
        inside = np.flatnonzero((played >= last.shortest_played) & (played <= last.longest_played))
        total = at_end[bucket, layer] + last.cost(played) + missed
        state = (bucket * self.graph.at.size + end) * self._width + layer
        found = [End(float(total[k]), stage, int(state[k]), int(played[k])) for k in inside]
        return [*found, *self._ends_anew(stage, table, begun, last, missed)]

    def _ends_anew(self, stage: int, table: StageTable, begun: Starts, wanted: Wanted, missed: float) -> Iterator[End]:
        """The ways that break off to go straight into the last hit, where it is aimed at or meets a waypoint."""
        ending = self._ending
        if ending is None:
            return
        moments: list[tuple[int, int | None, float]] = [(wanted.samples, None, 0.0)] if ending.is_aimed else []
        moments += [(w.at_samples, k, w.missed_cost) for k, w in enumerate(self._waypoints) if k >= stage and w.may_end]
        for at, number, saved in moments:
            over = np.array(at - wanted.samples)
            if wanted.tail.takes(over) == over and (broken := self._broken_off(table, begun, at)):
                cost = broken[0] + missed - saved + ending.cost + float(wanted.cost(np.array([at]))[0])
                yield End(cost, stage, broken[1], at, ending, number)

    def _traced(self, end: End, begun: dict[int, Starts], tables: dict[int, StageTable]) -> Route:
        edges: list[int] = []  # the last one first, as the way is followed back
        met: list[tuple[int, int, int]] = []
        anew: dict[int, tuple[int, int, int, int]] = {}  # by their place among the edges: samples and beats left and entered
        rests: dict[int, int] = {}
        stage, state = end.stage, end.state
        if end.anew:
            anew[0] = self._broken(tables[stage], state, end.played_samples, end.anew.entered_samples, end.anew.beat)
            edges.append(_ANEW)
            met += [(end.meets, end.anew.entered_samples, 0)] if end.meets is not None else []
        while True:
            start = back(tables[stage], state, edges)
            if stage == 0:
                break
            begins, n_edges, hit = begun[stage], self.graph.to.size, self._waypoints[stage - 1]
            edge, source = int(begins.edge[start]), int(begins.source[start])
            stage_before, state = int(begins.stage[start]), int(begins.state[start])
            if edge >= n_edges:  # the hit is met before the seam
                edges.append(edge - n_edges)
            met.append((stage - 1, source, len(edges)))
            if edge <= _ANEW and (entries := self._entries[stage - 1]) is not None:
                beat = int(entries.beat[_ANEW - edge])
                anew[len(edges)] = self._broken(tables[stage_before], state, hit.at_samples, source, beat)
                rests[len(edges)] = hit.goes_on_samples - hit.at_samples
                edges.append(edge)
            elif 0 <= edge < n_edges:
                edges.append(edge)
            stage = stage_before
        last, first = len(edges) - 1, 1 if self.graph.fades else 0  # the opening, and what comes after a fade
        seams = tuple(anew[k][2:] if k in anew else self.graph.pair(edges[k]) for k in range(last - 1, first - 1, -1))
        fades_on = self.graph.pair(edges[0])[0] if self.graph.fades else None
        hits = tuple(Met(number, at, last - after) for number, at, after in reversed(met))
        broken = tuple(Anew(last - 1 - k, *anew[k][:2], rests.get(k, 0)) for k in sorted(anew, reverse=True))
        return Route(seams, end.cost, end.played_samples, hits, int(self.graph.beat_to[edges[last]]), broken, fades_on)

    def _broken(self, table: StageTable, state: int, at: int, entered: int, beat: int) -> tuple[int, int, int, int]:
        """Samples left and entered, and beats, of a way that is broken off at a moment of the output."""
        bar = state // self._width % self.graph.at.size
        left = int(self.graph.at[bar]) + at - int(table.at.flat[state]) - table.base
        return left, entered, int(np.searchsorted(self.graph.beats, left, side="right")) - 1, beat
