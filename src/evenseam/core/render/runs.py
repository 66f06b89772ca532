"""Which music of a plan is played in one go, and in which way its speed is changed.

Passages that follow each other at a seam and are played in the same way make a run. Their seams are made first, from the
track as it is; the joined music is then played along one time map. So a seam sounds the same at every speed, and no change
of speed ever leaves a join behind. The rule, from what bench/give.py measures (docs/rendering.md):

copy       every speed is exactly 1: the samples of the track, bit for bit
varispeed  no speed differs by more than 0.3 %: plain resampling, the pitch goes along by 5 cents at most
sweep      anything more: the pitch is kept
"""

from collections.abc import Hashable
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from evenseam.core.plan.model import Passage, Plan, Rest, Seam
from evenseam.core.timebase.time_map import Knot, TimeMap

Way = Literal["copy", "varispeed", "sweep"]
VARISPEED_UP_TO_PCT = 0.3


@dataclass(frozen=True, slots=True)
class Run:
    """Passages played in one go, with the seams between them. Its *edit* is their music joined at the track's own speed."""

    way: Way
    passages: tuple[Passage, ...]
    seams: tuple[Seam, ...] = ()

    @property
    def out_in_samples(self) -> int:
        """First sample of the output."""
        return self.passages[0].out_in_samples

    @property
    def out_out_samples(self) -> int:
        """Sample of the output after the last."""
        return self.passages[-1].out_out_samples

    def edit_starts(self) -> tuple[int, ...]:
        """Where each passage begins in the edit, and where it ends: samples from 0, one more than there are passages."""
        starts = [0]
        for passage in self.passages:
            starts.append(starts[-1] + passage.source_out_samples - passage.source_in_samples)
        return tuple(starts)

    def time_map(self) -> TimeMap:
        """From the output to the edit. Pins on a straight line say nothing and are left out."""
        knots = [
            Knot(pin.out_samples, start + pin.source_samples - passage.source_in_samples)
            for passage, start in zip(self.passages, self.edit_starts(), strict=False)
            for pin in passage.pins
        ]
        return TimeMap(tuple(dict.fromkeys(knots)))

    @property
    def key(self) -> Hashable:
        """Everything of a run that changes how it sounds, for a given recording."""
        fades = tuple((s.fade_samples, s.correlation) for s in self.seams)
        return self.way, tuple(tuple((p.source_samples, p.out_samples) for p in x.pins) for x in self.passages), fades


def runs_of(plan: Plan) -> tuple[Run, ...]:
    """The runs of a plan, in order. A rest ends a run, and so does a passage that is played in another way."""
    seams = {s.out_samples: s for s in plan.seams}
    runs: list[Run] = []
    before: Passage | Rest | None = None
    for piece in plan.pieces():
        if isinstance(piece, Passage):
            way = way_of(piece)
            if isinstance(before, Passage) and runs[-1].way == way:
                run = runs[-1]
                runs[-1] = Run(way, (*run.passages, piece), (*run.seams, seams[piece.out_in_samples]))
            else:
                runs.append(Run(way, (piece,)))
        before = piece
    return tuple(runs)


def way_of(passage: Passage) -> Way:
    """In which way the speed of a passage is changed."""
    if all(b.source_samples - a.source_samples == b.out_samples - a.out_samples for a, b in pairwise(passage.pins)):
        return "copy"
    return "varispeed" if abs(passage.speed_change_pct()) <= VARISPEED_UP_TO_PCT else "sweep"
