"""How much music a way still has before it, with as many seams as it may yet take.

Where seams are counted, a way that has too few of them left to last as long as is wanted, or that can no longer end as soon,
is not followed.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.plan.search._kernels_to_end import music_left
from evenseam.core.plan.search.limits import OUT_OF_REACH
from evenseam.core.plan.search.openings import Graph, Openings, entries_of

FEW_SEAMS = 2  # so few that counting them at once is quicker than to look without counting first
_MOST_COUNTED = 40  # seams are counted one by one up to here; a way with more costs far more than any with fewer

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Jumps:
    """Where ways may break off in any bar: to go on at some of the openings, or to end there.

    `rests_samples`: of silence that may pass before they go on.
    """

    openings: Sequence[Openings] = ()
    rests_samples: int = 0
    may_end: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Room:
    """Samples from each node to the last hit or the fade, `least` and `most`; int64 (layers, nodes), by the seams taken before.

    Without layers nothing is known, for any number of seams.
    """

    least: Ints
    most: Ints

    @classmethod
    def none(cls) -> Self:
        """That of any number of seams."""
        nothing = np.empty((0, 0), dtype=np.int64)
        return cls(nothing, nothing)

    @classmethod
    def of(cls, graph: Graph, most_seams: int | None, jumps: Jumps | None = None) -> Self:
        """What is left where so many seams may be taken (None: any number). A start anew counts like one."""
        if most_seams is None:
            return cls.none()
        jumps = jumps or Jumps()
        to, _, plays = entries_of(graph, jumps.openings)
        least, most = music_left(
            graph.steps,
            (graph.first, graph.to, graph.samples),
            graph.end,
            min(most_seams, _MOST_COUNTED) + 2 + graph.fades,  # an opening is counted like a seam, and so is a fade
            OUT_OF_REACH,
            (to, plays, jumps.rests_samples),
            -graph.to_hit_samples if jumps.may_end else OUT_OF_REACH,
        )
        return cls(least + graph.to_hit_samples, most + graph.to_hit_samples)

    @property
    def layers(self) -> int:
        """In how many numbers of seams ways are told apart, 0 where they are not."""
        return self.least.shape[0]

    def lasts(self, node: int) -> tuple[int, int] | None:
        """The least and the most samples of a way from a node that has taken no seam yet; None where it comes to no end."""
        least, most = int(self.least[0, node]), int(self.most[0, node])
        return (least, most) if least <= most else None

    def may_last(self, node: int, shortest: int, longest: int) -> bool:
        """Whether a way from a node that has taken no seam yet may last between so many samples."""
        return not self.layers or bool(self.least[0, node] <= longest and self.most[0, node] >= shortest)

    def for_kernel(self, shortest: int, longest: int) -> tuple[Ints, Ints, int, int]:
        """As the kernel takes it, for ways that are to last between so many samples of the time in which it counts."""
        return self.least, self.most, shortest, longest
