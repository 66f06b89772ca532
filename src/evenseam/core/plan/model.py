"""The plan: passages of the track and rests, laid end to end on the output, with pins that hold samples to samples.

Every method of fitting gives this same thing, and one renderer, one drawing and one set of exporters read it. A plan that
does not fill its length, or does not hold together, cannot be made: that would be a fault of the program, a PlanError.
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, get_args

from evenseam.core.spot.sheet import HitKind, Weight
from evenseam.core.timebase import Knot, TimeMap

PLAN_VERSION = 3
Grade = Literal["even", "faint", "plain"]
SeamKind = Literal["beat", "breath", "anew"]
FadeShape = Literal["linear", "cosine"]
OpeningKind = Literal["own", "section", "bar"]
OPENINGS: tuple[OpeningKind, ...] = get_args(OpeningKind)
LandingKind = Literal["ring_out", "last_hit", "fade"]
LOUDEST_GAIN_DB = 24.0


class PlanError(ValueError):
    """A plan does not hold together: whoever made it is at fault, not what was asked for."""


@dataclass(frozen=True, slots=True)
class Pin:
    """A sample of the track that is held to a sample of the output."""

    source_samples: int
    out_samples: int


@dataclass(frozen=True, slots=True)
class Passage:
    """A stretch of the track [source_in, source_out) laid on the output [out_in, out_out).

    The pins start at (source_in, out_in), end at (source_out, out_out) and rise strictly on both sides; between two pins
    the speed is constant. How a renderer cuts its work into pieces is not said here.
    """

    pins: tuple[Pin, ...]

    def __post_init__(self) -> None:
        if len(self.pins) < 2:
            raise PlanError("a passage needs a pin at either end")
        for a, b in pairwise(self.pins):
            if b.source_samples <= a.source_samples or b.out_samples <= a.out_samples:
                raise PlanError(f"pins must rise: {a} is followed by {b}")

    @property
    def source_in_samples(self) -> int:
        """First sample of the track."""
        return self.pins[0].source_samples

    @property
    def source_out_samples(self) -> int:
        """Sample of the track after the last."""
        return self.pins[-1].source_samples

    @property
    def out_in_samples(self) -> int:
        """First sample of the output."""
        return self.pins[0].out_samples

    @property
    def out_out_samples(self) -> int:
        """Sample of the output after the last."""
        return self.pins[-1].out_samples

    def time_map(self) -> TimeMap:
        """From the output to the track."""
        return TimeMap(tuple(Knot(p.out_samples, p.source_samples) for p in self.pins))

    def speed_change_pct(self) -> float:
        """The largest change of speed between two of its pins, in per cent, with its sign (above 0 is faster)."""
        return max(((float(s) - 1) * 100 for s in self.time_map().speeds()), key=abs)


@dataclass(frozen=True, slots=True)
class Fade:
    """A change of level over so many samples. A cosine has no corner at either end."""

    n_samples: int
    shape: FadeShape = "linear"

    def __post_init__(self) -> None:
        if self.n_samples < 0:
            raise PlanError("a fade cannot be shorter than nothing")


@dataclass(frozen=True, slots=True)
class Rest:
    """The music stops: silence on the output [out_in, out_out). The fades are of the music before it and after it."""

    out_in_samples: int
    out_out_samples: int
    fade_before: Fade
    fade_after: Fade

    def __post_init__(self) -> None:
        if self.out_out_samples <= self.out_in_samples:
            raise PlanError("a rest has to end after it starts")


@dataclass(frozen=True, slots=True)
class Seam:
    """A join: at `out` the music leaves `source_from` and goes on at `source_to`, across a crossfade of `fade` samples.

    The fade lies half on either side, before the attack of the beat, which is left whole. `correlation` (-1 to 1) of the
    two sides under the fade chooses its law. `percentile`: of the natural bar-to-bar joins of the track, the share in
    per cent that are a bigger change than this one. `kind`: on a beat, on a breath point of music in free time, where
    the fade is as long as a breath, or anew: the music breaks off wherever it is, to start on a hit. `reason`: in words, what
    goes on across it and what does not.
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
    reason: str = ""


@dataclass(frozen=True, slots=True)
class HitMet:
    """What became of a hit: where it was asked for and where the music meets it, on the output; None where it is missed.

    `source_samples`: the place of the track that lands there. Of a silence, both say where it begins.
    """

    asked_samples: int
    landed_samples: int | None
    kind: HitKind
    weight: Weight = "should"
    tolerance_samples: int = 0
    source_samples: int | None = None
    label: str = ""

    @property
    def is_kept(self) -> bool:
        """Whether the music meets it, within its tolerance."""
        return self.landed_samples is not None and abs(self.landed_samples - self.asked_samples) <= self.tolerance_samples


@dataclass(frozen=True, slots=True)
class Opening:
    """How a fit begins: with the track's own opening, at a section of it, or straight in on a downbeat."""

    kind: OpeningKind = "own"


@dataclass(frozen=True, slots=True)
class Landing:
    """How a fit ends: with its ring-out, on its last hit, or in a fade. `last_hit`: where that is on the output, if known."""

    kind: LandingKind = "ring_out"
    last_hit_samples: int | None = None


@dataclass(frozen=True, slots=True)
class Plan:
    """One fit. `score` is the planner's cost: lower is better, comparable between plans of the same track.

    Passages and rests follow each other without gaps from 0 to `target_samples`. There is a seam wherever two passages
    meet, and nowhere else.
    """

    method: str
    rate: int
    target_samples: int
    passages: tuple[Passage, ...]
    seams: tuple[Seam, ...]
    score: float
    rests: tuple[Rest, ...] = ()
    hits: tuple[HitMet, ...] = ()
    opening: Opening = Opening()
    landing: Landing = Landing()
    fade_in: Fade = Fade(0)
    fade_out: Fade = Fade(0)
    gain_db: float = 0.0

    def __post_init__(self) -> None:
        if not self.passages:
            raise PlanError("a plan needs a passage")
        pieces = self.pieces()
        if pieces[0].out_in_samples != 0 or pieces[-1].out_out_samples != self.target_samples:
            raise PlanError("passages and rests must fill a plan's length exactly")
        for a, b in pairwise(pieces):
            if a.out_out_samples != b.out_in_samples or (isinstance(a, Rest) and isinstance(b, Rest)):
                raise PlanError("passages and rests must follow each other without gaps, no rest after a rest")
        meets = [b.out_in_samples for a, b in pairwise(pieces) if isinstance(a, Passage) and isinstance(b, Passage)]
        if meets != [s.out_samples for s in self.seams]:
            raise PlanError("a plan needs a seam wherever two passages meet, and nowhere else")
        if not abs(self.gain_db) <= LOUDEST_GAIN_DB:
            raise PlanError(f"a gain of {self.gain_db} dB is more than {LOUDEST_GAIN_DB:g} dB")

    def pieces(self) -> tuple[Passage | Rest, ...]:
        """Passages and rests in the order in which they are heard."""
        return tuple(sorted((*self.passages, *self.rests), key=lambda piece: piece.out_in_samples))

    def max_speed_change_pct(self) -> float:
        """The largest change of speed anywhere, in per cent, with its sign."""
        return max((p.speed_change_pct() for p in self.passages), key=abs)
