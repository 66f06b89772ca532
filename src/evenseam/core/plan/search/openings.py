"""Where ways may begin, and the whole graph that they go along: bars, seams between them, and the openings into them.

An opening is an edge like a seam: it leads from the start, which is a node of its own, into a bar, and plays on until hold
bars have passed. So hits that fall inside an opening are met like any other.
"""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.model import Fade, OpeningKind
from evenseam.core.plan.search.endings import FADES
from evenseam.core.plan.search.graph import Bars, Edges
from evenseam.core.plan.search.limits import OUT_OF_REACH, Limits
from evenseam.core.plan.search.shape import Shape

OWN = -1  # the beat that the track's own opening enters
OPENING_COST: dict[OpeningKind, float] = {"own": 0.0, "section": 3.0, "bar": 5.0}
LEAD_S = 0.020  # before the downbeat that an opening starts on, so that its attack stays whole
_FADE_IN_S = 0.015  # of the lead
_OWN_FADE_IN_S = 0.002  # so that a head that is cut, or its hiss, does not tick
_NEAR_S = 0.05
MOST_OWN_BARS = 2  # no more of the track's own opening has to be heard

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Openings:
    """Ways in, parallel arrays: the beat entered (OWN: the track's own), its bar and sample, the bar to which it plays on."""

    beat: Ints
    bar: Ints
    entered: Ints
    to: Ints
    cost: NDArray[np.float32]

    @classmethod
    def own(cls, start_samples: int, to: int) -> Self:
        """The track's own opening alone."""
        beat, bar, entered, ends = (np.array([value], dtype=np.int64) for value in (OWN, 0, start_samples, to))
        return cls(beat, bar, entered, ends, np.zeros(1, dtype=np.float32))

    def and_others(self, other: Self) -> Self:
        """Both."""
        return type(self)(*(np.concatenate([getattr(self, f.name), getattr(other, f.name)]) for f in fields(self)))


def entries_of(graph: "Graph", openings: Sequence[Openings]) -> tuple[Ints, NDArray[np.float32], Ints]:
    """Of some openings together the bars to which they play on, their costs, and the samples that they play until there."""
    to = np.concatenate([np.empty(0, dtype=np.int64), *(o.to for o in openings)])
    bar = np.concatenate([np.empty(0, dtype=np.int64), *(o.bar for o in openings)])
    return to, np.concatenate([np.empty(0, dtype=np.float32), *(o.cost for o in openings)]), graph.at[to] - graph.at[bar]


def own_opening(chart: Chart, bars: Bars, hold: int) -> Openings:
    """The track's own opening, of two bars at most before it may be left."""
    return Openings.own(chart.music_start_samples, min(hold, MOST_OWN_BARS, bars.end))


def openings_inside(chart: Chart, bars: Bars, limits: Limits, hold: int, sections_only: bool) -> Openings:
    """Straight in on a downbeat, at a section or on any; none that jumps over what is kept, or is marked."""
    to = np.minimum(np.arange(bars.end) + hold, bars.end)
    bar = np.arange(bars.end)
    lead = round(LEAD_S * chart.rate)
    usable = (bars.at[bar] > chart.music_start_samples + lead) & ~limits.blocked[bars.first_beat[bar]]
    skips = np.concatenate([[0], np.cumsum(limits.skipped)])
    usable &= skips[np.maximum(to, bar + 1)] == skips[bar]
    if limits.kept.size:
        usable &= bar <= limits.kept[0]
    at_section = _at_section(chart, bars.at[bar])
    if sections_only:
        usable &= at_section
    cost = np.where(at_section, OPENING_COST["section"], OPENING_COST["bar"]).astype(np.float32)
    bar = bar[usable]
    return Openings(bars.first_beat[bar], bar, bars.at[bar] - lead, to[usable], cost[usable])


def on_the_ending(bars: Bars) -> Openings:
    """Straight into the last bar."""
    beat, bar, entered = (np.array([n], dtype=np.int64) for n in (bars.first_beat[bars.end], bars.end, bars.at[bars.end]))
    return Openings(beat, bar, entered, bar, np.full(1, OPENING_COST["section"], dtype=np.float32))


def opening_kind(chart: Chart, beat: int) -> OpeningKind:
    """How a fit begins that enters at a beat."""
    if beat == OWN:
        return "own"
    return "section" if _at_section(chart, chart.beats[[beat]])[0] else "bar"


def _at_section(chart: Chart, samples: Ints) -> NDArray[np.bool_]:
    """Whether a section, but the first, starts at each of some places."""
    starts = np.array([s.start_samples for s in chart.sections[1:]], dtype=np.int64)
    near = np.abs(samples[:, None] - starts).min(axis=1, initial=chart.n_samples)
    return np.asarray(near <= _NEAR_S * chart.rate)


def opened_at(chart: Chart, beat: int) -> int:
    """The first sample of the track that a fit plays which enters at a beat."""
    return chart.music_start_samples if beat == OWN else int(chart.beats[beat]) - round(LEAD_S * chart.rate)


def opening_fade(chart: Chart, kind: OpeningKind) -> Fade:
    """The fade from nothing into a fit that begins so."""
    if kind == "own":
        return Fade(round(_OWN_FADE_IN_S * chart.rate) if chart.music_start_samples > 0 else 0)
    return Fade(round(_FADE_IN_S * chart.rate), "cosine")


@dataclass(frozen=True, slots=True, eq=False)
class Graph:
    """All that ways go along. Nodes are the bars, after them the fade if ways end in one, and the start.

    Edges are seams, from the start openings, and to the fade the bar lines on which it may begin. `beats`: samples of the
    track's. `at`, `steps`: int64 (nodes,), where each bar starts on the track and how long it plays, out of reach where it may
    not. Edges as of `Edges`, with the samples of the track that each leaves and enters and the bar it enters. `end`: the last
    bar, or with `fades` the fade. `to_hit_samples`: from there to the last hit, or to where the fade begins. `shape`:
    what is wished.
    """

    beats: Ints
    at: Ints
    steps: Ints
    end: int
    first: Ints
    to: Ints
    samples: Ints
    cost: NDArray[np.float32]
    beat_from: Ints
    beat_to: Ints
    left: Ints
    entered: Ints
    bar_entered: Ints
    to_hit_samples: int
    usual_step: int
    shortest_move: int
    fades: bool
    shape: Shape

    @property
    def start(self) -> int:
        """The node from which all ways begin."""
        return self.at.size - 1

    @property
    def seams(self) -> slice:
        """The edges that are no openings."""
        return slice(int(self.first[self.start]))

    @property
    def node_from(self) -> Ints:
        """The node that each edge leaves."""
        return np.repeat(np.arange(self.at.size), np.diff(self.first))

    def pair(self, edge: int) -> tuple[int, int]:
        """The beats that a seam leaves and enters."""
        return int(self.beat_from[edge]), int(self.beat_to[edge])

    def quantum(self, limit: int, most_states: int, quanta_per_bar: int) -> int:
        """As fine as the work allows, and never longer than the shortest move (the kernel relies on it)."""
        fine = max(self.usual_step / quanta_per_bar, limit * self.at.size / most_states)
        return max(1, min(int(fine), self.shortest_move))


def graph_of(
    beats: Ints,
    bars: Bars,
    edges: Edges,
    openings: Openings,
    to_hit_samples: int,
    limits: Limits | None = None,
    fades: bool = False,
    shape: Shape | None = None,
) -> Graph:
    """The graph of some seams and openings, and of fades if `edges` has them; `beats`: samples of the track's."""
    steps = bars.steps if limits is None else limits.steps(bars.steps)
    end = bars.end + fades
    after = np.full(end - bars.end, bars.at[bars.end])  # the fade, which is no place of the track
    order = np.argsort(openings.cost, kind="stable")  # the kernel wants the cheapest first
    opening = replace(openings, **{f.name: getattr(openings, f.name)[order] for f in fields(openings)})
    samples = np.concatenate([edges.samples, bars.at[opening.to] - opening.entered])
    # Edges straight to the ending may be as short as nothing: it goes nowhere.
    onward = samples[np.concatenate([edges.to, opening.to]) != end]
    is_fade = edges.beat_to == FADES
    entered = np.where(is_fade, bars.at[bars.end], beats[edges.beat_to])
    bar_entered = np.where(is_fade, end, np.searchsorted(bars.first_beat, edges.beat_to, side="right") - 1)
    n_edges = edges.to.size
    return Graph(
        beats=beats,
        at=np.concatenate([bars.at, after, [0]]),
        steps=np.concatenate([steps[: bars.end], np.full(end - bars.end, OUT_OF_REACH), [0, OUT_OF_REACH]]),
        end=end,
        first=np.concatenate([edges.first, np.full(end - bars.end, n_edges), [n_edges + opening.to.size]]),
        to=np.concatenate([edges.to, opening.to]),
        samples=samples,
        cost=np.concatenate([edges.cost, opening.cost]),
        beat_from=np.concatenate([edges.beat_from, np.full(opening.to.size, OWN)]),
        beat_to=np.concatenate([edges.beat_to, opening.beat]),
        left=np.concatenate([beats[edges.beat_from], np.zeros(opening.to.size, dtype=np.int64)]),
        entered=np.concatenate([entered, opening.entered]),
        bar_entered=np.concatenate([bar_entered, opening.bar]),
        to_hit_samples=to_hit_samples,
        usual_step=int(np.median(bars.steps[:-1])),
        shortest_move=max(1, int(min(bars.steps[:-1].min(), onward.min(initial=OUT_OF_REACH)))),
        fades=fades,
        shape=shape or Shape.none(),
    )
