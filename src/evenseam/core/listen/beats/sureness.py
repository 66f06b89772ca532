"""How sure a chart can be of its beats and bars: signs that tell right ones from wrong ones, weighed into likelihoods.

What the ear and the count say of single beats is no measure of the whole: what misleads them in one bar does so in the next.
The weights were fitted on charts of recordings with known beats, by logistic regression (bench/ear/sure_fit.py).
"""

from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.beats.counting import BeatGrid, Counted
from evenseam.core.listen.beats.places import Places

SIGNS = (
    "heard",  # how clearly beats were heard at all
    "even",  # how little the time from beat to beat wavers
    "beats apart",  # from what lies between them, to the count
    "grid",  # ahead of all others that the count could have chosen
    "bars apart",  # from the same bars begun at another beat, by all signs
    "odds apart",  # the same to the count alone
    "ear apart",  # the same to the ear alone
)
_LIMIT = 4.0
PULSE_FROM = 0.3  # likelihood of a pulse below which music is taken to be in free time, which it seldom is
# Of SIGNS and a bias: that there is a pulse; that beats are right, half and double tempo forgiven; that bars are as well.
_PULSE_WEIGHTS = np.array([1.16, 0.18, 0.51, 0.06, 0.1, 0.48, 0.23, -2.53])
_BEAT_WEIGHTS = np.array([0.72, 0.19, 0.14, -0.19, 0.56, 0.09, -0.33, 0.58])
_BAR_WEIGHTS = np.array([0.51, 0.49, 0.19, -0.41, 0.94, 0.1, -0.43, -0.54])
_CAUTION = 1.3  # taken from the log odds: who calls himself sure and is wrong costs more than who is looked at in vain

FloatArray = NDArray[np.float64]


def sureness_signs(heard: float, hops: NDArray[np.int64], counted: Counted, grid: BeatGrid, found: Places) -> FloatArray:
    """The SIGNS of one chart, float64 (7,). `heard`: the ear's mean likelihood of the beats as decoded; `hops`: of them."""
    place, usual = found.place, found.beats_per_bar
    said = np.logaddexp(counted.kinds[:, 1], counted.kinds[:, 2]) - counted.kinds[:, 0]
    on = np.zeros(said.size, dtype=bool)
    on[grid.halves] = True
    between = said[~on] if (~on).any() else said
    signs = [
        np.log((heard + 0.02) / (1.02 - heard)),
        -np.log(50 * (_wavering(hops) + 0.004)),
        said[on].mean() - between.mean(),
        4 * grid.clear,
        *(_apart(values, place, usual) for values in (found.worth, counted.odds(grid).astype(np.float64), found.ear_odds)),
    ]
    return np.clip(np.array(signs, dtype=np.float64), -_LIMIT, 2 * _LIMIT)


@dataclass(frozen=True, slots=True)
class Sureness:
    """How likely there is a pulse, its beats are right (half and double tempo forgiven), and they and the bars are; 0 to 1.

    The last two are put cautiously: of charts that say 0.7 or more, one in twenty or fewer is wrong.
    """

    pulse: float
    beat: float
    bar: float

    @classmethod
    def of(cls, signs: FloatArray) -> Self:
        """From the SIGNS of a chart."""
        odds = np.stack([_PULSE_WEIGHTS, _BEAT_WEIGHTS, _BAR_WEIGHTS]) @ [*signs, 1.0] - (0.0, _CAUTION, _CAUTION)
        pulse, beat, bar = (1 / (1 + np.exp(-odds))).tolist()
        return cls(pulse, min(pulse, beat), min(pulse, beat, bar))

    @property
    def is_free_time(self) -> bool:
        """Whether the music is better taken to have no beat."""
        return self.pulse < PULSE_FROM


def _wavering(hops: NDArray[np.int64]) -> float:
    """The mean change of the time from beat to beat, as a share of it."""
    changes = np.diff(np.log(np.maximum(np.diff(hops), 1)))
    return float(np.abs(changes).mean()) if changes.size else 0.0


def _apart(values: FloatArray, place: NDArray[np.int64], beats_per_bar: int) -> float:
    """How far the mean of downbeats is ahead of that of the best other place in the bar."""
    means = [values[place == k].mean() for k in range(beats_per_bar) if (place == k).any()]
    return float(means[0] - max(means[1:])) if len(means) > 1 and (place == 0).any() else 0.0
