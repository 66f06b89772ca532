"""A programme: clips of sound at exact places, each with a gain curve, on buses. Preview, print and film are made from it."""

from dataclasses import dataclass
from itertools import pairwise

NOTHING_DB = -120.0  # a gain of this or less is silence


class ProgrammeError(ValueError):
    """A programme does not hold together: whoever made it is at fault."""


@dataclass(frozen=True, slots=True)
class GainPoint:
    """A gain at a place, in samples from where its curve begins to count."""

    at_samples: int
    gain_db: float


@dataclass(frozen=True, slots=True)
class GainCurve:
    """Gain in dB, straight lines (in dB) between its points, level before the first and after the last. Empty: 0 dB."""

    points: tuple[GainPoint, ...] = ()

    def __post_init__(self) -> None:
        if any(b.at_samples <= a.at_samples for a, b in pairwise(self.points)):
            raise ProgrammeError("the points of a gain curve must rise")

    @classmethod
    def level(cls, gain_db: float) -> "GainCurve":
        """The same gain throughout."""
        return cls((GainPoint(0, gain_db),))


@dataclass(frozen=True, slots=True)
class Clip:
    """A stretch of a sound on a bus.

    `sound`: the name of what sounds. `at_samples`, `n_samples`: where it lies in the programme, and how long, at the
    programme's rate. `start_samples`: the sample of the sound that is heard there first, at the sound's own rate.
    `gain` counts from the clip's start.
    """

    sound: str
    at_samples: int
    n_samples: int
    start_samples: int = 0
    bus: str = "music"
    gain: GainCurve = GainCurve()

    def __post_init__(self) -> None:
        if self.n_samples <= 0:
            raise ProgrammeError("a clip must last at least a sample")


@dataclass(frozen=True, slots=True)
class Bus:
    """What several clips go through. `gain` counts from the programme's start."""

    name: str
    gain: GainCurve = GainCurve()


@dataclass(frozen=True, slots=True)
class Programme:
    """Everything that is heard, at one rate. Clips may lie anywhere; what is outside [0, n_samples) is not heard."""

    rate: int
    channels: int
    n_samples: int
    clips: tuple[Clip, ...]
    buses: tuple[Bus, ...] = (Bus("music"),)

    def __post_init__(self) -> None:
        if self.n_samples <= 0 or self.channels not in (1, 2):
            raise ProgrammeError("a programme lasts at least a sample, in one or two channels")
        names = [b.name for b in self.buses]
        if len(set(names)) != len(names) or any(c.bus not in names for c in self.clips):
            raise ProgrammeError("every clip must lie on a bus of the programme, and no two buses have one name")


def alone(sound: str, rate: int, channels: int, n_samples: int) -> Programme:
    """One sound by itself, from its start."""
    return Programme(rate, channels, n_samples, (Clip(sound, 0, n_samples),))
