"""What is asked of a fit."""

from dataclasses import dataclass

from evenseam.core.errors import BriefError

PLANNER_VERSION = 1  # to be raised when the same brief is to be answered anew
USUAL_GIVE_PCT = (3.0, 6.0, 10.0)  # tried in this order when no give is asked for
GIVE_BEFORE_SHORT_BARS_PCT = 5.0  # a little more speed comes before short bars
MOST_GIVE_PCT = 20.0
DEFAULT_HOLD_BARS = 4
LONGEST_TARGET_S = 3 * 3600


@dataclass(frozen=True, slots=True)
class Brief:
    """A length in samples at the track's rate, and the limits within which it is to be reached.

    `give_pct`: how far the speed may be changed; None lets the planner start at 3 % and take more only for lengths so
    short that a single beat is more than that. `hold_bars`: the fewest bars between two seams; None lets the planner
    start at 4 and go lower for lengths that leave no room. `max_seams`: None for as many as it takes. `kept_seams`: seams
    of an earlier fit, as the samples of the track that they leave and enter; they are used again wherever they can be.
    `method`: the name of one of `methods.METHODS`.
    """

    target_samples: int
    give_pct: float | None = None
    hold_bars: int | None = None
    max_seams: int | None = None
    kept_seams: tuple[tuple[int, int], ...] = ()
    method: str = "rearrange"

    def __post_init__(self) -> None:
        if self.target_samples <= 0:
            raise BriefError("The length asked for must be above zero.", target_samples=self.target_samples)
        if self.give_pct is not None and not 0 <= self.give_pct <= MOST_GIVE_PCT:
            raise BriefError(f"Give must be 0 to {MOST_GIVE_PCT:g} per cent.", give_pct=self.give_pct)
        if self.hold_bars is not None and not 1 <= self.hold_bars <= 64:
            raise BriefError("Hold must be 1 to 64 bars.", hold_bars=self.hold_bars)
        if self.max_seams is not None and self.max_seams < 0:
            raise BriefError("The number of seams cannot be below zero.", max_seams=self.max_seams)
