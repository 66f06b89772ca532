"""What a track offers to every method of fitting: weighed when it is first asked for, and kept."""

from collections.abc import Callable, Hashable, Sequence
from functools import cached_property
from threading import RLock

from evenseam.core.audio.sound import Sound
from evenseam.core.chart.chart import Chart
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import NoPlanError
from evenseam.core.keeping import Kept
from evenseam.core.plan.brief import Listening
from evenseam.core.plan.laying.waveforms import Cut, find_breath_cut, find_cut, find_cut_anew
from evenseam.core.plan.model import PlanError
from evenseam.core.plan.search.ahead import Ahead
from evenseam.core.plan.search.graph import Bars, Edges, allowed_joins, seam_edges, usable_bars
from evenseam.core.plan.search.joins import Joins, Moves
from evenseam.core.plan.search.labels import Anew
from evenseam.core.plan.search.limits import Limits, limits_of
from evenseam.core.plan.search.openings import LEAD_S
from evenseam.core.plan.search.respects import Respects

_MOST_EDGES = 24  # kept at a time: whoever turns what is listened for asks for others again and again
_MOST_AHEAD, _MOST_KEPT_EDGES = 8, 100_000  # kept at a time, and of a track that is not hours long


class Offer:
    """One track: `chart`, its `samples` (read around seams only), `joins`, and the `marks` that every plan respects.

    Safe for several threads: what it weighs is weighed once.
    """

    def __init__(self, chart: Chart, samples: Sound, joins: Joins | None = None, marks: Sequence[TrackMark] = ()) -> None:
        if samples.ndim != 2 or samples.shape[1] != chart.n_samples:
            raise PlanError("chart and sound are not of the same track")
        self.chart = chart
        self.joins = joins or Joins(chart)
        self._samples = samples
        self._marks = tuple(marks)
        self._respects = Respects(chart)
        self._edges: Kept[tuple[int, bool, Listening], Edges] = Kept(_MOST_EDGES)
        self._aheads: Kept[Hashable, Ahead] = Kept(_MOST_AHEAD)
        self._weighing = RLock()
        self._cuts: dict[tuple[int, int], Cut] = {}

    @property
    def bars(self) -> Bars:
        """The bars that may be played. Raises: NoPlanError when there are too few."""
        with self._weighing:
            return self._bars

    @cached_property
    def _bars(self) -> Bars:
        return usable_bars(self.chart)

    @property
    def has_bars(self) -> bool:
        """Whether there are enough bars to join."""
        try:
            return self.bars.end > 0
        except NoPlanError:
            return False

    @property
    def limits(self) -> Limits:
        """What the marks mean for bars and beats."""
        with self._weighing:
            return self._limits

    @cached_property
    def _limits(self) -> Limits:
        return limits_of(self.chart, self.bars.first_beat, self._marks)

    def allows(self, start_samples: int, end_samples: int) -> bool:
        """Whether a stretch of the track may be played as it is: all that is kept is in it, and nothing that is skipped."""
        return all(
            mark.start_samples >= start_samples and mark.end_samples <= end_samples
            if mark.kind == "keep"
            else mark.kind == "guard" or mark.end_samples <= start_samples or mark.start_samples >= end_samples
            for mark in self._marks
        )

    @property
    def _moves(self) -> Moves:
        with self._weighing:
            return self._best_moves

    @cached_property
    def _best_moves(self) -> Moves:
        if not self.limits.any:
            return self.joins.moves
        return self.joins.best_moves(allowed_joins(self.chart, self.bars, self.limits))

    def edges(self, hold: int, short_bars: bool, listening: Listening) -> Edges:
        """The seams that may be taken with so many bars between two of them, with or without short bars."""

        def make() -> Edges:
            edges = seam_edges(self.chart, self.bars, self.joins, self._moves, self.limits, hold, short_bars)
            return self.heard_as(edges, listening)

        return self._edges.get((hold, short_bars, listening), make)

    def heard_as(self, edges: Edges, listening: Listening) -> Edges:
        """Some seams at what they cost with what is listened for."""
        return edges.at_cost(self._respects.weighed(edges.cost, edges.beat_from, edges.beat_to, listening))

    def ahead(self, asked: Hashable, make: Callable[[], Ahead]) -> Ahead:
        """What `make` gives; kept, unless it is large, for whoever asks the same again."""
        return self._aheads.get(asked, make, lambda made: made.edge_cost.size <= _MOST_KEPT_EDGES)

    def cut(self, beat_from: int, beat_to: int) -> Cut:
        """Where exactly a seam from one beat to another is cut."""
        if (beat_from, beat_to) not in self._cuts:
            find = find_breath_cut if self.chart.free_time else find_cut
            at = (int(self.chart.beats[k]) for k in (beat_from, beat_to))
            self._cuts[beat_from, beat_to] = find(self._samples, self.chart.rate, *at)  # the same whoever finds it
        return self._cuts[beat_from, beat_to]

    def cut_anew(self, seam: Anew) -> Cut:
        """Where to cut a seam that breaks off anywhere to start anew on an attack: just before it; not at all for a rest."""
        if seam.rest_samples:
            return Cut(seam.left_samples, seam.entered_samples - round(LEAD_S * self.chart.rate), 0, 0.0)
        return find_cut_anew(self._samples, self.chart.rate, seam.left_samples, seam.entered_samples)
