"""Path search through hits: the music is to have certain places of the track sound at certain moments.

Ways are looked for from hit to hit. Each stage starts where the one before met its hit, at every bar that can follow, and its
ways are found by the labels of `labels.py`; give is spent by each stretch between two hits for itself. Ways that meet a hit in
bars that a seam has to play on are followed as well. What a hit that is missed costs is paid by passing it over.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.alternates import different
from evenseam.core.plan.search._kernels import broken_off, cheapest_labels, places_met
from evenseam.core.plan.search.labels import SPEED_COST, STRETCH_COST_PER_PCT2, Anew, Met, Route, Wanted
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

Costs = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Bounds:
    """Which ways are followed: none dearer than the cheapest start of their stage by `beyond`, and none dearer than `most`.

    `beyond_must` in the place of `beyond` on the way to a hit that must be met, or to the end.
    """

    beyond: float
    beyond_must: float
    most: float = np.inf


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
        self._places = tuple(
            (w.into, graph.at[w.bar] + w.into, np.searchsorted(w.bar, bars).astype(np.int64)) for w in waypoints
        )
        self._free_entries = tuple(
            np.flatnonzero(np.isin(o.bar, w.bar[w.into == 0])) if o is not None and w.until_samples is None else None
            for w, o in zip(waypoints, self._entries, strict=True)
        )
        # An opening is counted like a seam, and so is a fade.
        self._width = 1 if most_seams is None else min(most_seams, _MOST_COUNTED) + 2 + graph.fades
        self._all_met: dict[tuple[Wanted, int, Bounds], tuple[tuple[Route, ...], Costs]] = {}

    def routes(self, wanted: Wanted, count: int, bounds: Bounds, may_miss: float = np.inf) -> tuple[Route, ...]:
        """Up to `count` routes that end in time and meet what is worth it, cheapest first; none if there is none.

        `wanted`: of the whole, its give holding for every stretch between two hits. `may_miss`: ways on which what is missed
        costs more need not be found.
        """
        n, cheapest_missed = len(self._waypoints), min((w.missed_cost for w in self._waypoints), default=np.inf)
        if (wanted, count, bounds) not in self._all_met:
            unknown = np.full(n + 1, np.inf)
            self._all_met[wanted, count, bounds] = self._found(wanted, 0, count, bounds, unknown), unknown
        all_met, least = self._all_met[wanted, count, bounds]
        if (all_met and all_met[-1].cost <= cheapest_missed) or (not all_met and may_miss < cheapest_missed):
            return all_met  # no way that misses one of them is cheaper, or does
        if may_miss < MUST_COST <= cheapest_missed:
            return tuple(r for r in all_met if len(r.met) == n)  # the last one can be missed as well: none lies after it
        if len(all_met) == count:
            bounds = replace(bounds, most=all_met[-1].cost)
        for reach in sorted({min(_PASSED_OVER, n), n}):
            if found := different([*all_met, *self._found(wanted, reach, count, bounds, least.copy())], count):
                return tuple(found)
        return ()

    def _found(self, wanted: Wanted, reach: int, count: int, bounds: Bounds, least: Costs) -> tuple[Route, ...]:
        """The cheapest routes that pass over no more than `reach` hits in a row.

        `least`: (stages,), what the cheapest start of each is known to cost at most; changed in place.
        """
        n = len(self._waypoints)
        starts: list[list[Starts]] = [[] for _ in range(n + 1)]
        starts[0] = [self._opening()]
        tables: dict[int, StageTable] = {}
        ends: list[End] = []
        for stage in range(n + 1):
            if not starts[stage]:
                continue
            begun, last, missed = of_all(starts[stage]), min(n, stage + 1 + reach), 0.0
            least[stage] = min(least[stage], begun.cost.min())
            most_of = [self._bound(least[k], k, reach, bounds) for k in range(stage, last + 1)]
            tables[stage] = table = self._table(stage, begun, wanted, most_of, bounds.most)
            for number in range(stage, last):
                most = min(most_of[0], bounds.most - missed), most_of[number - stage + 1] - missed
                for met in (self._meets(table, number, wanted.give, most, missed), self._starts_anew(table, number, missed)):
                    if met is not None:
                        starts[number + 1].append(met)
                missed += self._waypoints[number].missed_cost
            if last == n:
                ends += self._ends(table, wanted, missed)
        ends.sort(key=lambda end: (end.cost, end.played_samples, end.stage, end.state))
        routes: dict[tuple[tuple[int, int], ...], Route] = {}
        for end in ends[: _TRIED_PER_ROUTE * count]:
            route = self._traced(end, tables)
            routes.setdefault(route.seams, route)
            if len(routes) == count:
                break
        return tuple(routes.values())

    def _opening(self) -> Starts:
        return Starts.of(np.zeros(1, dtype=np.float32), self.graph.start, 0, 0, 0, -1, -1, -1, -1)

    def _latest(self, last: int, wanted: Wanted) -> int:
        """Up to which sample a table has to reach that is looked at for the waypoints before `last`, and perhaps the end."""
        if last == len(self._waypoints):
            return wanted.longest_played - self.graph.to_hit_samples + 1
        at = self._waypoints[last - 1]
        return int(at.at_samples * (1 + wanted.give)) + at.tolerance_samples + 1

    def _bound(self, least: float, stage: int, reach: int, bounds: Bounds) -> float:
        """What ways of a stage may cost whose cheapest start costs so much."""
        n = len(self._waypoints)
        last = min(n, stage + 1 + reach)
        to_end = stage == n or (reach > 0 and last == n)  # the end has to be met like a must
        is_to_must = to_end or any(hit.is_must for hit in self._waypoints[stage:last])
        return min(least + (bounds.beyond_must if is_to_must else bounds.beyond), bounds.most)

    def _bounds_at(
        self, begun: Starts, stage: int, give: float, most_of: list[float], most: float
    ) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
        """What ways of a stage may cost from when on: past a hit that they have not met, less by what it costs.

        `most_of`: what those of this stage may cost, and then of each that it leads to. `most`: of all ways to the end.
        """
        last = stage + len(most_of) - 1
        hits, since = self._waypoints[stage:last], int(begun.since.min())
        late = [hit.at_samples + hit.tolerance_samples + int(give * (hit.at_samples - since)) for hit in hits]
        missed = [0.0, *accumulate(hit.missed_cost for hit in hits)]
        leads_on = np.inf if last == len(self._waypoints) else -np.inf
        costs = [min(most_of[0], most - missed[-1], leads_on)]
        for passed, goes_on in zip(missed[-2::-1], most_of[:0:-1], strict=True):
            leads_on = max(leads_on, goes_on - passed)
            costs.append(min(most_of[0], most - passed, leads_on))
        return np.array([0, *late]) - int(begun.samples.min()), np.array(costs[::-1], dtype=np.float32)

    def _table(self, stage: int, begun: Starts, wanted: Wanted, most_of: list[float], most: float) -> StageTable:
        base, graph = int(begun.samples.min()), self.graph
        limit = max(1, self._latest(stage + len(most_of) - 1, wanted) - base)
        quantum = graph.quantum(limit, _MOST_STATES // self._width, _QUANTA_PER_BAR)
        cost, at, came, taken = cheapest_labels(
            graph.steps,
            graph.first,
            graph.to,
            graph.samples,
            graph.cost,
            graph.bar_entered,
            (begun.node, begun.samples - base, begun.layer, begun.cost),
            graph.end,
            limit,
            quantum,
            self._bounds_at(begun, stage, wanted.give, most_of, most),
            self._width if self._width > 1 else 0,
            graph.shape.for_kernel(base),
        )
        shape = (-1, graph.at.size, self._width)
        return StageTable(stage, begun, cost.reshape(shape), at.reshape(shape), came, taken, base, quantum)

    def _meets(self, table: StageTable, number: int, give: float, most: tuple[float, float], missed: float) -> Starts | None:
        """Where ways may go on from that have met a waypoint; None where it cannot be met."""
        hit, graph = self._waypoints[number], self.graph
        if not hit.bar.size:
            return None
        span = max(1, hit.at_samples - int(table.begun.since.max()))
        reach = hit.tolerance_samples + int(give * span)
        found = places_met(
            table.cost,
            table.at,
            table.base,
            table.buckets_near(hit.at_samples - reach - self._longest_move, hit.at_samples + reach),
            (graph.at, graph.steps),
            (graph.first, graph.to, graph.cost, graph.left, graph.entered, graph.bar_entered),
            self._places[number],
            graph.end,
            (hit.at_samples - reach, hit.at_samples + reach),
            (hit.at_samples, hit.tolerance_samples, float(span), *self._speed_cost(span)),
            (np.float32(min(most)), np.float32(most[1])),
            graph.shape.for_kernel(0),
            self._most_debt,
            missed,
            table.stage,
        )
        return Starts(*found) if found[0].size else None

    def _starts_anew(self, table: StageTable, number: int, missed: float) -> Starts | None:
        """Where ways may go on from that break off at a waypoint and start anew there; None where that is not allowed."""
        hit, graph, anew = self._waypoints[number], self.graph, self._entries[number]
        broken = self._broken_off(table, hit.at_samples, hit.until_samples) if anew is not None else None
        if anew is None or broken is None:
            return None
        cost, state = broken
        free = self._free_entries[number]
        if free is None:
            free = np.arange(anew.to.size)
        if self._forward:
            free = free[anew.bar[free] > state // self._width % graph.at.size]
        if not free.size:
            return None
        to, bar = anew.to[free], anew.bar[free]
        samples, layer = hit.goes_on_samples + graph.at[to] - graph.at[bar], state % self._width + (self._width > 1)
        total = np.float32(cost + missed) + anew.cost[free]
        return Starts.of(total, to, samples, layer, hit.goes_on_samples, table.stage, state, _ANEW - free, graph.at[bar])

    def _broken_off(self, table: StageTable, at_samples: int, until_samples: int | None = None) -> tuple[float, int] | None:
        """Cost and state of the cheapest way that plays at a moment and may be broken off there, if there is one.

        Before a silence the nearer to a bar line the better. A start anew is counted like a seam.
        """
        graph = self.graph
        if at_samples - int(table.begun.since.max()) < graph.usual_step // 2:
            return None
        near = table.buckets_near(at_samples - self._longest_move, at_samples)
        inside = 0.0 if until_samples is None else _INSIDE_BAR_COST
        layers = self._width - 1 - graph.fades if self._width > 1 else 1
        cost, state = broken_off(
            table.cost, table.at, table.base, near, graph.steps, at_samples, OUT_OF_REACH - 1, inside, layers
        )
        return (cost, state) if state >= 0 else None

    def _speed_cost(self, span: int) -> tuple[float, float]:
        """Of any change of speed over a span, and of the square of its per cents."""
        share = max(LEAST_SPAN_SHARE, span / max(span, self._waypoints[-1].at_samples))
        return SPEED_COST * share, STRETCH_COST_PER_PCT2 * share

    def _ends(self, table: StageTable, wanted: Wanted, missed: float) -> list[End]:
        """The ways that end in time."""
        end, to_hit = self.graph.end, self.graph.to_hit_samples
        last = replace(wanted, pinned_samples=int(table.begun.since.max()))
        first, after = table.buckets_near(last.shortest_played - to_hit, last.longest_played - to_hit)
        played = table.at[first:after, end] + table.base + to_hit
        is_end = np.isfinite(table.cost[first:after, end]) & (played >= last.shortest_played) & (played <= last.longest_played)
        bucket, layer = np.nonzero(is_end)
        total = table.cost[first + bucket, end, layer] + last.cost(played[is_end]) + missed
        state = ((first + bucket) * self.graph.at.size + end) * self._width + layer
        ends = zip(total.tolist(), state.tolist(), played[is_end].tolist(), strict=True)
        found = [End(cost, table.stage, at, so_long) for cost, at, so_long in ends]
        return [*found, *self._ends_anew(table, last, missed)]

    def _ends_anew(self, table: StageTable, wanted: Wanted, missed: float) -> Iterator[End]:
        """The ways that break off to go straight into the last hit, where it is aimed at or meets a waypoint."""
        ending = self._ending
        if ending is None:
            return
        moments: list[tuple[int, int | None, float]] = [(wanted.samples, None, 0.0)] if ending.is_aimed else []
        moments += [(w.at_samples, k, w.missed_cost) for k, w in enumerate(self._waypoints) if k >= table.stage and w.may_end]
        for at, number, saved in moments:
            over = np.array(at - wanted.samples)
            if wanted.tail.takes(over) == over and (broken := self._broken_off(table, at)):
                cost = broken[0] + missed - saved + ending.cost + float(wanted.cost(np.array([at]))[0])
                yield End(cost, table.stage, broken[1], at, ending, number)

    def _traced(self, end: End, tables: dict[int, StageTable]) -> Route:
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
            begins, n_edges, hit = tables[stage].begun, self.graph.to.size, self._waypoints[stage - 1]
            stage_before, state, edge, source = begins.came_by(start)
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
