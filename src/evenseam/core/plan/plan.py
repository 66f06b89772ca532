"""The plan: passages of the track laid on stretches of the output, with anchors that pin samples to samples.

Every method of fitting gives this same thing, and one renderer, one drawing and one set of exporters read it.
"""

from dataclasses import asdict, dataclass
from itertools import pairwise
from typing import Any, Literal, NamedTuple, Self

from evenseam.core.errors import BriefError

PLAN_VERSION = 2
Grade = Literal["even", "faint", "plain"]
SeamKind = Literal["beat", "breath"]


class Anchor(NamedTuple):
    """A sample of the track that sounds at a sample of the output."""

    source: int
    out: int


@dataclass(frozen=True, slots=True)
class Passage:
    """A stretch of the track [source_in, source_out) laid on the output [out_in, out_out).

    The anchors start at (source_in, out_in), end at (source_out, out_out) and rise strictly on both sides; between two
    anchors the speed is constant.
    """

    anchors: tuple[Anchor, ...]

    def __post_init__(self) -> None:
        if len(self.anchors) < 2:
            raise BriefError("A passage needs an anchor at either end.")
        for a, b in pairwise(self.anchors):
            if b.source <= a.source or b.out <= a.out:
                raise BriefError(f"Anchors must rise: {tuple(a)} is followed by {tuple(b)}.")

    @property
    def source_in_samples(self) -> int:
        """First sample of the track."""
        return self.anchors[0].source

    @property
    def source_out_samples(self) -> int:
        """Sample of the track after the last."""
        return self.anchors[-1].source

    @property
    def out_in_samples(self) -> int:
        """First sample of the output."""
        return self.anchors[0].out

    @property
    def out_out_samples(self) -> int:
        """Sample of the output after the last."""
        return self.anchors[-1].out

    def speed_change_pct(self) -> float:
        """The largest change of speed between two of its anchors, in per cent, with its sign (above 0 is faster)."""
        changes = [((b.source - a.source) / (b.out - a.out) - 1) * 100 for a, b in pairwise(self.anchors)]
        return max(changes, key=abs)


@dataclass(frozen=True, slots=True)
class Seam:
    """A join: at `out` the music leaves `source_from` and goes on at `source_to`, across a crossfade of `fade` samples.

    The fade lies half on either side, before the attack of the beat, which is left whole. `correlation` (-1 to 1) of the
    two sides under the fade chooses its law. `percentile`: of the natural bar-to-bar joins of the track, the share in
    per cent that are a bigger change than this one. `kind`: on a beat, or on a breath point of music in free time, where
    the fade is as long as a breath.
    """

    out_samples: int
    source_from_samples: int
    source_to_samples: int
    fade_samples: int
    correlation: float
    percentile: float
    grade: Grade
    short_bar: bool
    kind: SeamKind = "beat"


@dataclass(frozen=True, slots=True)
class Plan:
    """One fit. `score` is the planner's cost: lower is better, comparable between plans of the same track."""

    method: str
    rate: int
    target_samples: int
    passages: tuple[Passage, ...]
    seams: tuple[Seam, ...]
    score: float

    def __post_init__(self) -> None:
        if not self.passages or len(self.seams) != len(self.passages) - 1:
            raise BriefError("A plan needs a seam between any two passages.")
        if self.passages[0].out_in_samples != 0 or self.passages[-1].out_out_samples != self.target_samples:
            raise BriefError("The passages of a plan must fill its length exactly.")
        for (a, b), seam in zip(pairwise(self.passages), self.seams, strict=True):
            if a.out_out_samples != b.out_in_samples or seam.out_samples != b.out_in_samples:
                raise BriefError("The passages of a plan must follow each other without gaps.")

    def max_speed_change_pct(self) -> float:
        """The largest change of speed anywhere, in per cent, with its sign."""
        return max((p.speed_change_pct() for p in self.passages), key=abs)

    def to_dict(self) -> dict[str, Any]:
        """Stored form, integers only where the value is one; read back by `from_dict`."""
        return {
            "version": PLAN_VERSION,
            "method": self.method,
            "rate": self.rate,
            "target_samples": self.target_samples,
            "score": self.score,
            "passages": [[list(a) for a in p.anchors] for p in self.passages],
            "seams": [asdict(s) for s in self.seams],
        }

    @classmethod
    def from_dict(cls, stored: dict[str, Any]) -> Self:
        """Inverse of `to_dict`. Raises: BriefError for another version or a plan that does not hold together."""
        if stored.get("version") != PLAN_VERSION:
            raise BriefError("This fit was made by another version. Fit the cue again.")
        return cls(
            method=stored["method"],
            rate=stored["rate"],
            target_samples=stored["target_samples"],
            passages=tuple(Passage(tuple(Anchor(*a) for a in anchors)) for anchors in stored["passages"]),
            seams=tuple(Seam(**s) for s in stored["seams"]),
            score=stored["score"],
        )
