"""A programme: clips of sound at exact places, each with a gain curve and fades, on buses. All that is heard comes from it."""

from dataclasses import dataclass

from evenseam.core.mix.curves import GainCurve
from evenseam.core.plan.model import Fade

_AS_IT_IS, _NO_FADE = GainCurve(), Fade(0)


class ProgrammeError(ValueError):
    """A programme does not hold together: whoever made it is at fault."""


@dataclass(frozen=True, slots=True)
class Clip:
    """A stretch of a sound on a bus.

    `sound`: the name of what sounds. `at_samples`, `n_samples`: where it lies in the programme, and how long, at the
    programme's rate. `start_samples`: the sample of the sound that is heard there first, at the sound's own rate.
    `gain` counts from the clip's start; the fades begin and end with the clip.
    """

    sound: str
    at_samples: int
    n_samples: int
    start_samples: int = 0
    bus: str = "music"
    gain: GainCurve = _AS_IT_IS
    fade_in: Fade = _NO_FADE
    fade_out: Fade = _NO_FADE

    def __post_init__(self) -> None:
        if self.n_samples <= 0:
            raise ProgrammeError("a clip must last at least a sample")
        if self.start_samples < 0:
            raise ProgrammeError("a clip begins with a sample of its sound")


@dataclass(frozen=True, slots=True)
class Bus:
    """What several clips go through. `gain` counts from the programme's start; the fades begin and end with the programme."""

    name: str
    gain: GainCurve = _AS_IT_IS
    fade_in: Fade = _NO_FADE
    fade_out: Fade = _NO_FADE


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


def alone(sound: str, rate: int, channels: int, n_samples: int, start_samples: int = 0) -> Programme:
    """One sound by itself, from one of its samples on."""
    return Programme(rate, channels, n_samples, (Clip(sound, 0, n_samples, start_samples),))
