"""What is asked of a fit."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal, get_args

from evenseam.core.errors import BriefError
from evenseam.core.plan.model import OpeningKind
from evenseam.core.spot.sheet import HitKind, Weight

PLANNER_VERSION = 15  # to be raised when the same brief is to be answered anew
USUAL_GIVES_PCT = (1.5, 3.0, 5.0)  # tried in this order when no give is asked for: a little more speed before short bars
FURTHER_GIVES_PCT = (3.0, 6.0, 10.0)  # and then these, with short bars and without
MOST_GIVE_PCT = 20.0
DEFAULT_HOLD_BARS = 4
DEFAULT_EARLY_PCT, DEFAULT_SILENCE_S = 33.0, 1.0
LONGEST_SILENCE_S = 30.0
DEFAULT_FADE_S, SHORTEST_FADE_S, LONGEST_FADE_S = 4.0, 0.5, 30.0
MOST_AIMS = 64
LONGEST_TARGET_S = 3 * 3600
MOST_HELD_BARS = 20_000
MOST_NAMED_SEAMS, MOST_WISHES, MOST_NAMED_BARS = 200, 200, 200
Order = Literal["free", "forward"]
ORDERS: tuple[Order, ...] = get_args(Order)
Respect = Literal["groove", "harmony", "colour", "level", "voice"]
RESPECTS: tuple[Respect, ...] = get_args(Respect)
MOST_WEIGHT = 3.0
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


@dataclass(frozen=True, slots=True)
class Listening:
    """How much each respect counts in the choice of seams: 1 as is usual, 0 not at all, 2 twice."""

    groove: float = 1.0
    harmony: float = 1.0
    colour: float = 1.0
    level: float = 1.0
    voice: float = 1.0

    def __post_init__(self) -> None:
        if any(not 0 <= self.of(respect) <= MOST_WEIGHT for respect in RESPECTS):
            raise BriefError(f"What is listened for counts 0 to {MOST_WEIGHT:g} times.")

    def of(self, respect: Respect) -> float:
        """How much one respect counts."""
        return float(getattr(self, respect))


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


@dataclass(frozen=True, slots=True)
class Brief:
    """A length in samples at the track's rate, the hits to meet, and the limits within which that is to be done.

    `give_pct`: how far the speed may be changed; None lets the planner change none where the tail and the seams allow it, else
    up to 1.5 %, and more only where nothing else is left. `hold_bars`: the fewest bars between two seams; None lets the planner
    start at 4 and go lower where that leaves no room. `max_seams`: None for as many as it takes. `kept_seams`: seams of an
    earlier fit, as the samples of the track that they leave and enter; they are used again wherever they can be. `method`: the
    name of one of `methods.METHODS`. `early_pct`: how much of the ring-out may be left out at its end, `silence_s`: how much
    silence may follow it; both come before any change of speed. `aims`: the hits. `opening`: how the music is to begin; None
    for the track's own opening, and for others only where hits would be missed without. `landing`: on the track's own ending,
    or in a fade of about `fade_s` that begins on a bar line. `order`: whether the music may go back to what was heard, or only
    forward. `forbidden_seams`: joins that are not to be taken again, written like those that are kept.
    `shape`: how full the music is to be when, in order and none over another. `listening`: what
    the seams are chosen by. `held_bars`: for `bend`, samples of the track and of the output that belong together, both rising:
    the tempo that the track is to follow, whatever hits there are.
    """

    target_samples: int
    give_pct: float | None = None
    hold_bars: int | None = None
    max_seams: int | None = None
    kept_seams: tuple[tuple[int, int], ...] = ()
    method: str = "blend"
    early_pct: float = DEFAULT_EARLY_PCT
    silence_s: float = DEFAULT_SILENCE_S
    aims: tuple[Aim, ...] = ()
    opening: OpeningKind | None = None
    landing: LandingAsked = "ring_out"
    fade_s: float = DEFAULT_FADE_S
    order: Order = "free"
    forbidden_seams: tuple[tuple[int, int], ...] = ()
    shape: tuple[Wish, ...] = ()
    listening: Listening = Listening()
    held_bars: tuple[tuple[int, int], ...] = ()

    def __post_init__(self) -> None:
        if self.target_samples <= 0:
            raise BriefError("The length asked for must be above zero.", target_samples=self.target_samples)
        if self.give_pct is not None and not 0 <= self.give_pct <= MOST_GIVE_PCT:
            raise BriefError(f"Give must be 0 to {MOST_GIVE_PCT:g} per cent.", give_pct=self.give_pct)
        if self.hold_bars is not None and not 1 <= self.hold_bars <= 64:
            raise BriefError("Hold must be 1 to 64 bars.", hold_bars=self.hold_bars)
        if self.max_seams is not None and self.max_seams < 0:
            raise BriefError("The number of seams cannot be below zero.", max_seams=self.max_seams)
        if not 0 <= self.early_pct <= 100:
            raise BriefError("How much of the ring-out may be left out must be 0 to 100 per cent.", early_pct=self.early_pct)
        if not 0 <= self.silence_s <= LONGEST_SILENCE_S:
            raise BriefError(f"The silence after the music must be 0 to {LONGEST_SILENCE_S:g} s.", silence_s=self.silence_s)
        if not SHORTEST_FADE_S <= self.fade_s <= LONGEST_FADE_S:
            raise BriefError(f"A fade must last {SHORTEST_FADE_S:g} to {LONGEST_FADE_S:g} s.", fade_s=self.fade_s)
        self._check_lists()

    def _check_lists(self) -> None:
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
