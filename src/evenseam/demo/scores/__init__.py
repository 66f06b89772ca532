"""Our own music for the demo production, as code; its beats and bars are therefore known."""

from evenseam.demo.scores import first_light, hill_bus, lantern_path, long_exposure
from evenseam.demo.scores.score import Score

SCORES: tuple[Score, ...] = (first_light.score(), lantern_path.score(), hill_bus.score(), long_exposure.score())

__all__ = ["SCORES", "Score"]
