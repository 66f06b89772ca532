"""Levels: how loud a cue or a bus is, how it begins and ends, and how its level goes in between.

Times are flicks, from the start of the cue's slot, or of the picture for a bus: they hold whatever the rate of the sound is.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import pairwise
from math import isfinite
from typing import Annotated

from evenseam.core.errors import MixError
from evenseam.core.mix.curves import NOTHING_DB, GainCurve, GainPoint
from evenseam.core.plan.asks import Ask, check_declared, declared_in
from evenseam.core.plan.model import Fade, FadeShape
from evenseam.core.timebase import flicks_to_samples

QUIETEST_DB, LOUDEST_DB = -60.0, 24.0
MOST_POINTS = 2000
MUSIC, SPEECH, OWN, CLICK = "music", "speech", "own", "click"  # `own`: the picture's own sound
BUSES = (MUSIC, SPEECH, OWN)


@dataclass(frozen=True, slots=True)
class LevelPoint:
    """A gain at a moment, beside the level."""

    at_flicks: int
    gain_db: float


@dataclass(frozen=True, slots=True)
class LevelFade:
    """A change of level over some time."""

    length_flicks: int = 0
    shape: FadeShape = "linear"

    def at(self, rate_hz: int) -> Fade:
        """In samples at a rate."""
        return Fade(flicks_to_samples(self.length_flicks, rate_hz), self.shape)


@dataclass(frozen=True, slots=True)
class Level:
    """What is set of one cue or bus. The gains of `points` add to `gain_db`, with straight lines (in dB) between them."""

    gain_db: Annotated[float, Ask("Level", "How loud it is beside how it came", "dB", low=QUIETEST_DB, high=LOUDEST_DB)] = 0.0
    is_muted: bool = False
    fade_in: LevelFade = LevelFade()
    fade_out: LevelFade = LevelFade()
    points: tuple[LevelPoint, ...] = ()

    def __post_init__(self) -> None:
        check_declared(self, LEVELS)
        if min(self.fade_in.length_flicks, self.fade_out.length_flicks) < 0:
            raise MixError("A fade cannot be shorter than nothing.")
        if len(self.points) > MOST_POINTS or any(b.at_flicks <= a.at_flicks for a, b in pairwise(self.points)):
            raise MixError(f"The points of a level must be in order of time, and {MOST_POINTS:,} at most.")
        if not all(isfinite(p.gain_db) and NOTHING_DB <= p.gain_db <= LOUDEST_DB for p in self.points):
            raise MixError(f"A point of a level must be {NOTHING_DB:g} to {LOUDEST_DB:g} dB.")

    def curve(self, rate_hz: int) -> GainCurve:
        """The gain over samples at a rate. Of points that fall on one sample the last counts."""
        if self.is_muted:
            return GainCurve.level(NOTHING_DB)
        if not self.points:
            return GainCurve.level(self.gain_db)
        at = {flicks_to_samples(p.at_flicks, rate_hz): self._with_level(p.gain_db) for p in self.points}
        return GainCurve(tuple(GainPoint(*point) for point in at.items()))

    def _with_level(self, gain_db: float) -> float:
        return NOTHING_DB if gain_db <= NOTHING_DB else max(NOTHING_DB, gain_db + self.gain_db)


LEVELS = declared_in(Level)
AS_IT_CAME = Level()


@dataclass(frozen=True, slots=True)
class Mix:
    """What is set on a picture: levels of its cues, by id, and of its buses, by name. What is not there is as it came."""

    cues: Mapping[int, Level] = field(default_factory=dict)
    buses: Mapping[str, Level] = field(default_factory=dict)

    def of_cue(self, cue_id: int) -> Level:
        """The level of a cue."""
        return self.cues.get(cue_id, AS_IT_CAME)

    def of_bus(self, name: str) -> Level:
        """The level of a bus."""
        return self.buses.get(name, AS_IT_CAME)
