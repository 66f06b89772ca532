"""Our own music for the demo production, as code; its beats and bars are therefore known."""

from evenseam.demo.scores import (
    cold_air,
    copper_wire,
    first_light,
    frost_song,
    hill_bus,
    hill_parade,
    lantern_path,
    licensed,
    long_exposure,
    night_shift,
    paper_moons,
    pendulum,
    tide_clock,
)
from evenseam.demo.scores.score import Score

SCORES: tuple[Score, ...] = (
    first_light.score(),
    lantern_path.score(),
    hill_bus.score(),
    long_exposure.score(),
    tide_clock.score(),
    frost_song.score(),
    night_shift.score(),
    pendulum.score(),
    copper_wire.score(),
    hill_parade.score(),
    paper_moons.score(),
    cold_air.score(),
)
# What the catalogue stand-in has on offer.
LICENSED: tuple[Score, ...] = (
    licensed.slow_orbit(),
    licensed.bright_corners(),
    licensed.long_stair(),
    licensed.iron_lantern(),
    licensed.harbour_lights(),
)

__all__ = ["LICENSED", "SCORES", "Score"]
