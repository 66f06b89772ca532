"""What ways can do between two hits: be followed, meet the next one or pass it over, break off, start anew, and end."""

from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property

import numpy as np

from evenseam.core.plan.search._kernels_ways import broken_off, cheapest_labels, places_met
from evenseam.core.plan.search.ahead import Ahead, Floats, Ints
from evenseam.core.plan.search.labels import NOTHING_KNOWN, SPEED_COST, STRETCH_COST_PER_PCT2, Anew, Met, Route, Wanted
from evenseam.core.plan.search.limits import OUT_OF_REACH
from evenseam.core.plan.search.openings import Openings
from evenseam.core.plan.search.room import Jumps, Room
from evenseam.core.plan.search.shape_ahead import ShapeAhead
from evenseam.core.plan.search.stages import PASSED_OVER, End, EndAnew, StageTable, Starts, Waypoint, back

_QUANTA_PER_BAR = 16
_MOST_STATES = 10_000  # of one stage
LEAST_SPAN_SHARE = 0.25  # of the whole: a change of speed is noticed however short it is
_INSIDE_BAR_COST = 6.0  # of stopping for a silence, by the share of a bar to the nearest bar line
_ANEW = -2  # edges from here down are no seams of the graph: the music starts anew, at the next of its openings each


class Legs:
    """The ways of one graph from waypoint to waypoint; what they cost counts to the end, as in `Ahead`. As of `Passing`."""

    def __init__(
        self,
        ahead: Ahead,
        waypoints: tuple[Waypoint, ...],
        lasts_samples: int,
        most_seams: int | None,
        anew: Openings | None,
        returns: Openings | None,
        ending: EndAnew | None,
        forward: bool,
    ) -> None:
        self._graph, self.waypoints = ahead.graph, waypoints
        self._ending, self._forward = ending, forward
        graph = self._graph
        self._entries = tuple(anew if waypoint.until_samples is None else returns for waypoint in waypoints)
        self._rests = sum(waypoint.goes_on_samples - waypoint.at_samples for waypoint in waypoints)
        self._last_at = waypoints[-1].at_samples if waypoints else 0
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
        jumps = Jumps([entries for entries in (anew, returns) if entries is not None], self._rests, ending is not None)
        self._room = Room.of(graph, most_seams, jumps)
        self._width = max(1, self._room.layers)
        self._uncounted, self._jumps, self._lasts = ahead, jumps, lasts_samples - graph.to_hit_samples - self._rests
        self._ending_cost = np.inf if ending is None else ending.cost
        self._shape_ahead: dict[tuple[int, int], ShapeAhead] = {}
        self._no_shape = ShapeAhead.nothing(graph)

    @cached_property
    def _ahead(self) -> Ahead:
        return self._uncounted.with_seams_left(self._room.layers, self._lasts, self._jumps.openings, self._ending_cost)

    def _strays_ahead(self, wanted: Wanted) -> ShapeAhead:
        """What straying still costs ways that end in time, beside what else is ahead of them."""
        if not self._graph.shape.wished.size:
            return self._no_shape
        ends_from, until = self._may_end(wanted)[0] - self._graph.to_hit_samples, self._until(wanted)
        if (ends_from, until) not in self._shape_ahead:
            of_any = ShapeAhead.of(self._uncounted, ends_from, self._jumps, self._ending_cost)
            self._shape_ahead[ends_from, until] = of_any.beside(self._ahead, self._uncounted, until)
        return self._shape_ahead[ends_from, until]

    def _rest(self, wanted: Wanted, node: int | Ints, samples: int | Ints, layer: int | Ints = 0) -> Floats:
        """What is ahead of a node at a sample of the output, with so many seams taken."""
        rest = self._ahead.of_rest(node, self._until(wanted) - samples, layer)
        return rest + self._strays_ahead(wanted).of_rest(node, samples, layer)

    @property
    def seams_are_short(self) -> bool:
        """Whether as many seams as there may be make what has to last so long dearer than any number would."""
        return self._ahead is not self._uncounted

    def opening(self, wanted: Wanted) -> Starts:
        """The one start of all ways, at what any of them costs at least."""
        cost = self._rest(wanted, self._graph.start, 0)
        return Starts.of(np.full(1, cost, dtype=np.float32), self._graph.start, 0, 0, 0, -1, -1, -1, PASSED_OVER)

    def may_last(self, wanted: Wanted) -> bool:
        """Whether a way with as many seams as there may be can last as long as is wanted, and no longer."""
        return self._room.may_last(self._graph.start, *self._may_end(wanted))

    def _may_end(self, wanted: Wanted) -> tuple[int, int]:
        """Between which samples of the output ways end, whichever hits they land on before."""
        by_speed = int(wanted.give * max(wanted.samples, self._last_at))
        return wanted.samples - wanted.tail.silence_samples - by_speed, wanted.samples + wanted.tail.early_samples + by_speed

    def followed(
        self, number: int, stage: int, begun: Starts, wanted: Wanted, most: float, known: StageTable | None
    ) -> StageTable:
        """The table of ways from some starts, to the hit of a stage or the end; only what is cheaper than is known."""
        graph, ahead = self._graph, self._ahead
        before = self.waypoints[stage - 1] if stage else None
        base = before.at_samples - before.tolerance_samples if before else 0
        rest = before.goes_on_samples - before.at_samples if before else 0
        since = base if known is not None else min(base, begun.since_first)
        followed = max(base + 1, self._latest(stage, since, wanted))
        limit = followed - base + (self._longest_move if stage < len(self.waypoints) else 0)
        quantum = graph.quantum(max(1, followed - base - rest), _MOST_STATES // self._width, _QUANTA_PER_BAR)
        cost, at, came, taken, began = cheapest_labels(
            (graph.steps, ahead.step_cost),
            (graph.first, graph.to, graph.samples, graph.bar_entered, ahead.edge_order, ahead.edge_cost),
            (begun.node, begun.samples - base, begun.layer, begun.cost),
            graph.end,
            (limit, followed - base),
            quantum,
            np.float32(most),
            self._room.layers,
            self._room.for_kernel(*(samples - base for samples in self._may_end(wanted))),
            graph.shape.for_kernel(base),
            self._strays_ahead(wanted).for_kernel(base),
            NOTHING_KNOWN if known is None else known.cost.ravel(),
        )
        cost, at, began = (labels.reshape(-1, graph.at.size, self._width) for labels in (cost, at, began))
        return StageTable(number, stage, begun, cost, at, came, taken, began, base, quantum, followed, most)

    def _latest(self, stage: int, since: int, wanted: Wanted) -> int:
        """Up to which sample ways that met their last hit at another may meet the one of a stage, or the end."""
        if stage == len(self.waypoints):
            return wanted.longest_played - self._graph.to_hit_samples + 1
        hit = self.waypoints[stage]
        return hit.at_samples + hit.reach_samples(wanted.give, since) + 1

    def _until(self, wanted: Wanted) -> int:
        """Up to when the music plays on at least. To play it faster spares nothing where that costs more than it leaves out."""
        until = wanted.samples - self._graph.to_hit_samples - wanted.tail.silence_samples - self._rests
        is_spared = self._ahead.per_sample * wanted.give * max(wanted.samples, self._last_at) > SPEED_COST
        return until - int(wanted.give * wanted.samples) if is_spared else until

    def is_within_give(self, stage: int, wanted: Wanted) -> bool:
        """Whether the hit of a stage, or the end, is met as well with what give there is since the last hit as with more."""
        before = self.waypoints[stage - 1].goes_on_samples if stage else 0
        if wanted.give == 0:
            return True
        if stage == len(self.waypoints):
            room = wanted.tail.early_samples + wanted.tail.silence_samples + 2 * wanted.give * (wanted.samples - before)
            return room >= self._graph.usual_step
        hit, at = self.waypoints[stage], self._places[stage][1]
        room = 2 * (hit.tolerance_samples + wanted.give * (hit.at_samples - before))
        return hit.until_samples is not None or bool(at.size > 1 and room >= np.diff(at).max())

    def may_sound(self, table: StageTable, number: int, give: float) -> bool:
        """Whether a way may meet a hit in what it plays on until it is followed in the next table."""
        hit = self.waypoints[number]
        return hit.at_samples - hit.reach_samples(give, table.begun.since_first) <= table.followed_samples + self._longest_move

    def meets(self, table: StageTable, number: int, wanted: Wanted, most: tuple[float, float], missed: float) -> Starts | None:
        """Where ways may go on from that have met a waypoint; None where it cannot be met."""
        hit, graph, ahead, give = self.waypoints[number], self._graph, self._ahead, wanted.give
        if not hit.bar.size:
            return None
        reach = hit.reach_samples(give, table.begun.since_first)
        latest = min(hit.at_samples + reach, table.followed_samples)
        found = places_met(
            (table.cost, table.at, table.began),
            table.base,
            table.buckets_near(hit.at_samples - reach - self._longest_move, latest),
            (graph.at, graph.steps, ahead.step_cost),
            (graph.first, graph.to, graph.left, graph.entered, graph.bar_entered, ahead.edge_order, ahead.edge_cost),
            self._places[number],
            graph.end,
            table.begun.since,
            (hit.at_samples, hit.tolerance_samples, give, ahead.per_sample),
            (self._last_at, LEAST_SPAN_SHARE, SPEED_COST, STRETCH_COST_PER_PCT2),
            (np.float32(min(most)), np.float32(most[1])),
            graph.shape.for_kernel(0),
            self._strays_ahead(wanted).for_kernel(0),
            self._most_debt,
            missed,
            table.number,
        )
        return Starts(*found) if found[0].size else None

    def meets_at_once(self, table: StageTable, number: int, wanted: Wanted, most: float, missed: float) -> Starts | None:
        """Where ways may go on from that meet a waypoint in the same bars as the one before, which a seam has to play on.

        They are the starts of their table, which begin after both. None where there are none.
        """
        hit, begun, graph, give = self.waypoints[number], table.begun, self._graph, wanted.give
        if begun.samples_last <= hit.at_samples - hit.reach_samples(give, begun.since_first):
            return None
        _, place_at, _ = self._places[number]
        span = np.maximum(1, hit.at_samples - begun.since)
        reach = hit.tolerance_samples + (give * span).astype(np.int64)
        low, high = hit.at_samples - reach, hit.at_samples + reach
        start = np.flatnonzero((begun.samples > low) & (begun.source != PASSED_OVER) & (begun.cost <= most))
        if not start.size:
            return None
        n_edges = graph.to.size
        is_before_seam = begun.edge[start] >= n_edges
        first = begun.source[start] + 1
        first[is_before_seam] = graph.entered[begun.edge[start][is_before_seam] - n_edges]
        until = graph.at[begun.node[start]]
        sounds = (begun.samples[start] - until)[:, None] + place_at
        is_met = (place_at >= first[:, None]) & (place_at < until[:, None])
        is_met &= (sounds >= low[start, None]) & (sounds <= high[start, None])
        row, place = np.nonzero(is_met)
        start, sounds = start[row], sounds[row, place]
        landed = np.where(np.abs(sounds - hit.at_samples) <= hit.tolerance_samples, sounds, hit.at_samples)
        cost = begun.cost[start] + self._ahead.per_sample * (sounds - landed) + missed
        share = np.maximum(LEAST_SPAN_SHARE, span[start] / np.maximum(span[start], self._last_at))
        by_pct = 100 * (sounds - landed) / span[start]
        cost += np.where(landed == sounds, 0.0, share * (SPEED_COST + STRETCH_COST_PER_PCT2 * np.square(by_pct)))
        goes_on = begun.samples[start] + landed - sounds
        still, node, layer = self._strays_ahead(wanted), begun.node[start], begun.layer[start]
        cost += still.of_rest(node, goes_on, layer) - still.of_rest(node, begun.samples[start], layer)
        rows = begun.node[start], goes_on, begun.layer[start], landed, table.number, -1 - start, -1, place_at[place]
        return Starts.of(cost.astype(np.float32), *rows) if start.size else None

    def passed_over(self, table: StageTable, most: float) -> Starts | None:
        """Where ways go on that do not meet the hit of their table; None where there are none."""
        state = table.beyond(most, self._graph.end)
        if not state.size:
            return None
        cost = table.cost.ravel()[state] + np.float32(self.waypoints[table.stage].missed_cost)
        node, layer = state // self._width % self._graph.at.size, state % self._width
        samples, since = table.at.ravel()[state] + table.base, table.since(state)
        return Starts.of(cost, node, samples, layer, since, table.number, state, -1, PASSED_OVER)

    def starts_anew(self, table: StageTable, number: int, wanted: Wanted, missed: float) -> Starts | None:
        """Where ways may go on from that break off at a waypoint and start anew there; None where that is not allowed."""
        hit, graph, anew = self.waypoints[number], self._graph, self._entries[number]
        broken = self._broken_off(table, wanted, hit.at_samples, hit.until_samples) if anew is not None else None
        if anew is None or broken is None:
            return None
        cost, state = broken
        free = self._free_entries[number]
        if free is None:
            free = np.arange(anew.to.size)
        if self._forward:
            free = free[anew.bar[free] > self._node(state)]
        if not free.size:
            return None
        to, bar = anew.to[free], anew.bar[free]
        samples, layer = hit.goes_on_samples + graph.at[to] - graph.at[bar], state % self._width + (self._width > 1)
        total = (cost + missed + anew.cost[free] + self._rest(wanted, to, samples, layer)).astype(np.float32)
        return Starts.of(total, to, samples, layer, hit.goes_on_samples, table.number, state, _ANEW - free, graph.at[bar])

    def _broken_off(
        self, table: StageTable, wanted: Wanted, at_samples: int, until_samples: int | None = None
    ) -> tuple[float, int] | None:
        """Cost and state of the cheapest way that plays at a moment and may be broken off there, if there is one.

        Before a silence the nearer to a bar line the better. A start anew is counted like a seam.
        """
        graph, ahead = self._graph, self._ahead
        cost, state = broken_off(
            (table.cost, table.at, table.began),
            table.base,
            table.buckets_near(at_samples - self._longest_move, at_samples),
            graph.steps,
            table.begun.since,
            (at_samples, graph.usual_step // 2, OUT_OF_REACH - 1),
            0.0 if until_samples is None else _INSIDE_BAR_COST,
            self._width - 1 - graph.fades if self._width > 1 else 1,
            (ahead.per_sample, ahead.to_end, self._until(wanted)),
            self._strays_ahead(wanted).for_kernel(0),
        )
        return (cost, state) if state >= 0 else None

    def ends(self, table: StageTable, wanted: Wanted) -> list[End]:
        """The ways that end in time, whatever hits they miss by that."""
        end, to_hit = self._graph.end, self._graph.to_hit_samples
        widest = replace(wanted, pinned_samples=table.begun.since_first)
        first, after = table.buckets_near(widest.shortest_played - to_hit, widest.longest_played - to_hit)
        if first >= after:
            return []
        missed = self._missed_from(table.stage)
        bucket, layer = np.nonzero(np.isfinite(table.cost[first:after, end]))
        if not bucket.size:
            return []
        states = ((first + bucket) * self._graph.at.size + end) * self._width + layer
        since = table.since(states)
        met = np.searchsorted([w.goes_on_samples - w.tolerance_samples for w in self.waypoints], since, side="right")
        found = []
        for number in sorted(set(met.tolist())):
            last = replace(wanted, pinned_samples=int(since[met == number].max()))
            played = table.at.ravel()[states[met == number]] + table.base + to_hit
            is_end = (played >= last.shortest_played) & (played <= last.longest_played)
            state, played = states[met == number][is_end], played[is_end]
            rest = self._rest(wanted, end, played - to_hit, state % self._width)
            total = table.cost.ravel()[state] - rest + last.cost(played) + missed
            ends = zip(total.tolist(), state.tolist(), played.tolist(), strict=True)
            found += [End(cost, table.number, at, so_long) for cost, at, so_long in ends]
        return found

    def ends_anew(self, table: StageTable, wanted: Wanted) -> Iterator[End]:
        """The ways that break off to go straight into the last hit, where it is aimed at or meets a waypoint."""
        ending = self._ending
        if ending is None:
            return
        missed = self._missed_from(table.stage)
        moments: list[tuple[int, int | None, float]] = [(wanted.samples, None, 0.0)] if ending.is_aimed else []
        moments += [(w.at_samples, k, w.missed_cost) for k, w in enumerate(self.waypoints) if k >= table.stage and w.may_end]
        for at, number, saved in moments:
            over = np.array(at - wanted.samples)
            if wanted.tail.takes(over) == over and (broken := self._broken_off(table, wanted, at)):
                cost = broken[0] + missed - saved + ending.cost + float(wanted.cost(np.array([at]))[0])
                yield End(cost, table.number, broken[1], at, ending, number)

    def _missed_from(self, stage: int) -> float:
        """What it costs to meet no hit any more."""
        return sum(waypoint.missed_cost for waypoint in self.waypoints[stage:])

    def traced(self, end: End, tables: list[StageTable]) -> Route:
        """The route of a way, followed back through the tables that it went through."""
        edges: list[int] = []  # the last one first, as the way is followed back
        met: list[tuple[int, int, int]] = []
        anew: dict[int, tuple[int, int, int, int]] = {}  # by their place among the edges: samples and beats left and entered
        rests: dict[int, int] = {}
        table, state = tables[end.table], end.state
        if end.anew:
            anew[0] = self._broken(table, state, end.played_samples, end.anew.entered_samples, end.anew.beat)
            edges.append(_ANEW)
            met += [(end.meets, end.anew.entered_samples, 0)] if end.meets is not None else []
        while True:
            number, (before, state, edge, source) = table.stage - 1, table.begun.came_by(back(table, state, edges))
            if before < 0:
                break
            table = tables[before]
            if source == PASSED_OVER:
                continue
            n_edges, hit = self._graph.to.size, self.waypoints[number]
            if edge >= n_edges:  # the hit is met before the seam
                edges.append(edge - n_edges)
            met.append((number, source, len(edges)))
            if edge <= _ANEW and (entries := self._entries[number]) is not None:
                beat = int(entries.beat[_ANEW - edge])
                anew[len(edges)] = self._broken(table, state, hit.at_samples, source, beat)
                rests[len(edges)] = hit.goes_on_samples - hit.at_samples
                edges.append(edge)
            elif 0 <= edge < n_edges:
                edges.append(edge)
        return self._route(end, edges, met, anew, rests)

    def _route(
        self,
        end: End,
        edges: list[int],
        met: list[tuple[int, int, int]],
        anew: dict[int, tuple[int, int, int, int]],
        rests: dict[int, int],
    ) -> Route:
        graph = self._graph
        last, first = len(edges) - 1, 1 if graph.fades else 0  # the opening, and what comes after a fade
        seams = tuple(anew[k][2:] if k in anew else graph.pair(edges[k]) for k in range(last - 1, first - 1, -1))
        fades_on = graph.pair(edges[0])[0] if graph.fades else None
        hits = tuple(Met(number, at, last - after) for number, at, after in reversed(met))
        broken = tuple(Anew(last - 1 - k, *anew[k][:2], rests.get(k, 0)) for k in sorted(anew, reverse=True))
        return Route(seams, end.cost, end.played_samples, hits, int(graph.beat_to[edges[last]]), broken, fades_on)

    def _broken(self, table: StageTable, state: int, at: int, entered: int, beat: int) -> tuple[int, int, int, int]:
        """Samples left and entered, and beats, of a way that is broken off at a moment of the output."""
        left = int(self._graph.at[self._node(state)]) + at - int(table.at.flat[state]) - table.base
        return left, entered, int(np.searchsorted(self._graph.beats, left, side="right")) - 1, beat

    def _node(self, state: int) -> int:
        return state // self._width % self._graph.at.size
