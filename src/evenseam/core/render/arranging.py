"""From what sounds on a picture, and what is set of it, to a programme: everything at its place, at one rate."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from evenseam.core.mix.levels import AS_IT_CAME, BUSES, Level, Mix
from evenseam.core.render.programme import Bus, Clip, Programme
from evenseam.core.timebase import flicks_to_samples

USUAL_RATE_HZ = 48_000  # where sounds of several rates meet, and where there is none


@dataclass(frozen=True, slots=True)
class Placed:
    """A sound where it is heard: `at_flicks` from the programme's start, `n_samples` of it at its own rate."""

    sound: str
    rate: int
    channels: int
    n_samples: int
    at_flicks: int = 0
    bus: str = "music"
    level: Level = AS_IT_CAME
    start_samples: int = 0

    def clip(self, rate: int) -> Clip:
        """As a clip of a programme at a rate."""
        length, level = n_at(self.n_samples, self.rate, rate), self.level
        at = flicks_to_samples(self.at_flicks, rate)
        fades = level.fade_in.at(rate), level.fade_out.at(rate)
        return Clip(self.sound, at, length, self.start_samples, self.bus, level.curve(rate), *fades)


def arranged(placed: Sequence[Placed], mix: Mix, length_flicks: int) -> Programme:
    """The programme of a picture: at the rate of its sounds where that is one, in as many channels as they have."""
    rates = Counter(sound.rate for sound in placed)
    rate = next(iter(rates)) if len(rates) == 1 else USUAL_RATE_HZ
    channels = max((sound.channels for sound in placed), default=2)
    buses = tuple(_bus(name, mix.of_bus(name), rate) for name in BUSES)
    return Programme(rate, channels, flicks_to_samples(length_flicks, rate), tuple(p.clip(rate) for p in placed), buses)


def by_itself(placed: Placed, more: Sequence[Placed] = ()) -> Programme:
    """The programme of one sound, at its own rate and as long as it is, with what sounds beside it."""
    clips = tuple(p.clip(placed.rate) for p in (placed, *more))
    buses = tuple(Bus(name) for name in dict.fromkeys(clip.bus for clip in clips))
    return Programme(placed.rate, placed.channels, placed.n_samples, clips, buses)


def n_at(n_samples: int, own_rate: int, rate: int) -> int:
    """How many samples a sound has at another rate: as many as hold all of it."""
    return -(-n_samples * rate // own_rate)


def _bus(name: str, level: Level, rate: int) -> Bus:
    return Bus(name, level.curve(rate), level.fade_in.at(rate), level.fade_out.at(rate))
