"""What is asked of a fit."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Literal, get_args

from evenseam.core.errors import BriefError
from evenseam.core.plan.asks import Ask, check_declared, declared_in
from evenseam.core.plan.model import OpeningKind
from evenseam.core.plan.seams import SeamName
from evenseam.core.spot.sheet import HitKind, Weight

PLANNER_VERSION = 15  # to be raised when the same brief is to be answered anew
USUAL_GIVES_PCT = (1.5, 3.0, 5.0)  # tried in this order when no give is asked for: a little more speed before short bars
FURTHER_GIVES_PCT = (3.0, 6.0, 10.0)  # and then these, with short bars and without
MOST_GIVE_PCT = 20.0
DEFAULT_HOLD_BARS = 4
MOST_AIMS = 64
LONGEST_TARGET_S = 3 * 3600
MOST_HELD_BARS = 20_000
MOST_NAMED_SEAMS, MOST_WISHES, MOST_NAMED_BARS = 200, 200, 200
MOST_WEIGHT = 3.0
MethodName = Literal["blend", "rearrange", "loop", "stretch", "bend", "trim"]
Order = Literal["free", "forward"]
ORDERS: tuple[Order, ...] = get_args(Order)
Respect = Literal["groove", "harmony", "colour", "level", "voice"]
RESPECTS: tuple[Respect, ...] = get_args(Respect)
LandingAsked = Literal["ring_out", "fade"]
LANDINGS: tuple[LandingAsked, ...] = get_args(LandingAsked)


@dataclass(frozen=True, slots=True)
class Aim:
    """A hit that a fit is to meet: where on the output, what is to sound there, how much it matters, how near is near enough.

    `until_samples` ends a silence, and is there for silences only. `pinned_samples`: the place of the track whose beat alone is
    to meet it, whatever beat of its bar that is; `forbidden_samples`: places whose beats are not to.
    """

    at_samples: int
    kind: HitKind = "downbeat"
    weight: Weight = "should"
    tolerance_samples: int = 0
    until_samples: int | None = None
    label: str = ""
    pinned_samples: int | None = None
    forbidden_samples: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.at_samples < 0 or self.tolerance_samples < 0:
            raise BriefError("A hit cannot lie before the music starts.", at_samples=self.at_samples)
        if (self.kind == "silence") != (self.until_samples is not None):
            raise BriefError("A silence needs an end, and only a silence has one.")
        if len(self.forbidden_samples) > MOST_NAMED_BARS:
            raise BriefError(f"No more than {MOST_NAMED_BARS} bars can be kept off a hit.")


def _counts(what: str) -> Ask:
    return Ask(what, f"How much the {what} counts where two passages meet", "times", low=0, high=MOST_WEIGHT)


@dataclass(frozen=True, slots=True)
class Listening:
    """How much each respect counts in the choice of seams: 1 as is usual, 0 not at all, 2 twice."""

    groove: Annotated[float, _counts("groove")] = 1.0
    harmony: Annotated[float, _counts("harmony")] = 1.0
    colour: Annotated[float, _counts("colour")] = 1.0
    level: Annotated[float, _counts("level")] = 1.0
    voice: Annotated[float, _counts("voice")] = 1.0

    def __post_init__(self) -> None:
        check_declared(self, WEIGHTS)

    def of(self, respect: Respect) -> float:
        """How much one respect counts."""
        return float(getattr(self, respect))


WEIGHTS = declared_in(Listening)


@dataclass(frozen=True, slots=True)
class Wish:
    """How full the music is to be over a span of the output: 0 as the thinnest bars of the track, 1 as its fullest ones.

    The wish goes evenly from one level to the other.
    """

    start_samples: int
    end_samples: int
    start_level: float
    end_level: float

    def __post_init__(self) -> None:
        if not 0 <= self.start_samples < self.end_samples:
            raise BriefError("A wish for how full the music is has to end after it starts, and cannot start before the music.")
        if not (0 <= self.start_level <= 1 and 0 <= self.end_level <= 1):
            raise BriefError("How full the music is to be must be 0 to 1.")


_METHODS = (
    ("blend", "seams near the hits, and give to land on them"),
    ("rearrange", "seams for the length, whatever the hits"),
    ("loop", "some bars again and again"),
    ("stretch", "all of it at one speed, no seam"),
    ("bend", "all of it, its tempo bent so that beats land on the hits"),
    ("trim", "one stretch of it as it is"),
)
_OPENINGS = (("own", "as it does itself"), ("section", "at a section"), ("bar", "on any downbeat"))
_LANDINGS = (("ring_out", "on its own ending"), ("fade", "in a fade"))
_ORDERS = (("free", "free"), ("forward", "only forward"))


@dataclass(frozen=True, slots=True)
class Brief:
    """A length in samples at the track's rate, the hits to meet, and the limits within which that is to be done.

    `give_pct` None: none where the tail and the seams allow it, else up to 1.5 %, and more only where nothing else is left.
    `hold_bars` None: 4, and fewer where that leaves no room. Ring-out and silence come before any change of speed. `opening`
    None: the track's own, and others only where hits would be missed without. `landing`: a fade begins on a bar line. `order`:
    forward goes back to nothing that was heard. `aims`: the hits. `kept_seams` are used again wherever they can be,
    `forbidden_seams` are not taken. `shape`: how full the music is to be when, in order and none over another. `listening`:
    what the seams are chosen by. `held_bars`: for `bend`, samples of the track and of the output that belong together, both
    rising: the tempo that the track is to follow, whatever hits there are.
    """

    target_samples: int
    give_pct: Annotated[
        float | None, Ask("Give", "Most change of speed", "%", low=0, high=MOST_GIVE_PCT, usual="as little as it takes")
    ] = None
    hold_bars: Annotated[
        int | None,
        Ask("Hold", "Fewest bars between two seams", "bars", low=1, high=64, usual="4, fewer where there is no room"),
    ] = None
    max_seams: Annotated[
        int | None, Ask("Seams", "Most seams", after="at most", low=0, high=1000, usual="as many as it takes")
    ] = None
    method: Annotated[MethodName, Ask("Method", "How it is fitted", choices=_METHODS)] = "blend"
    early_pct: Annotated[
        float,
        Ask("Ring-out", "How much of the ring-out may be faded away before the speed is changed", "%", "% may go", 0, 100),
    ] = 33.0
    silence_s: Annotated[
        float, Ask("Silence", "How much silence may follow before the speed is changed", "s", "s may follow", 0, 30)
    ] = 1.0
    opening: Annotated[
        OpeningKind | None,
        Ask("Opens", "Where the music begins", choices=_OPENINGS, usual="as it does itself, unless hits need more"),
    ] = None
    landing: Annotated[LandingAsked, Ask("Lands", "How the music ends", choices=_LANDINGS)] = "ring_out"
    fade_s: Annotated[float, Ask("Fade", "Length of the fade", "s", low=0.5, high=30)] = 4.0
    order: Annotated[Order, Ask("Order", "Whether the music may go back to what was heard", choices=_ORDERS)] = "free"
    aims: tuple[Aim, ...] = ()
    kept_seams: tuple[SeamName, ...] = ()
    forbidden_seams: tuple[SeamName, ...] = ()
    shape: tuple[Wish, ...] = ()
    listening: Listening = Listening()
    held_bars: tuple[tuple[int, int], ...] = ()

    def __post_init__(self) -> None:
        if self.target_samples <= 0:
            raise BriefError("The length asked for must be above zero.", target_samples=self.target_samples)
        check_declared(self, ASKS)
        if len(self.aims) > MOST_AIMS:
            raise BriefError(
                f"A fit can aim at {MOST_AIMS} hits at most. Leave some out, or make two cues.", hits=len(self.aims)
            )
        if any(aim.at_samples >= self.target_samples for aim in self.aims):
            raise BriefError("A hit lies after the end of the length asked for.")
        if max(len(self.kept_seams), len(self.forbidden_seams)) > MOST_NAMED_SEAMS:
            raise BriefError(f"No more than {MOST_NAMED_SEAMS} seams can be kept, and as many left out.")
        if len(self.shape) > MOST_WISHES or any(b.start_samples < a.end_samples for a, b in pairwise(self.shape)):
            raise BriefError(f"Wishes must be in order of time, none over another, and {MOST_WISHES} at most.")
        rising = all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(((-1, -1), *self.held_bars)))
        if len(self.held_bars) > MOST_HELD_BARS or not rising:
            raise BriefError(f"Bars that follow a map must be in order of time, and {MOST_HELD_BARS} at most.")


ASKS = declared_in(Brief)
