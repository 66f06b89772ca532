"""What is listened for: how much the groove, the harmony, the colour, the level and the voice count in the choice of seams.

The joins that a track offers are weighed all in all, over the beats around them, and the best are kept. Those are weighed here
once more by the bar that comes after each, respect by respect: in each of them the unit is how far neighbouring bars of the
track lie apart in it, and in harmony that the chord is another one. What is usual was chosen on joins whose notes are known
(bench/seams.py); a brief may want it otherwise.
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.chart.description import COLOUR, N_SOUND, SOUND
from evenseam.core.plan.brief import RESPECTS, Listening, Respect
from evenseam.core.plan.search.sides import apart

_BEATS = 4
_TOGETHER = 2  # beats whose notes count together: a chord that comes a beat later is the same harmony
_OTHER_CHORD = 0.4  # of what sounds is other notes: more of it is not heard as more
_USUAL_COST: dict[Respect, float] = {"groove": 0.75, "harmony": 9.0, "colour": 0.0, "level": 0.4, "voice": 0.0}
_MORE_COST, _LESS_COST = 1.5, 0.5  # of what counts twice, and what saves one that counts not at all
_LEAST_COST = 0.02
_FURTHEST = 4.0
_LEVELS = [SOUND.start + N_SOUND - 1, SOUND.start + 2 * N_SOUND - 1]  # of both halves of a beat

Ints = NDArray[np.int64]
Floats = NDArray[np.float32]


class Respects:
    """How far the bars of one track lie apart, respect by respect."""

    def __init__(self, chart: Chart) -> None:
        self._chart = chart
        self._bars: dict[Respect, tuple[Floats, float]] = {}

    def weighed(self, cost: Floats, beat_from: Ints, beat_to: Ints, listening: Listening) -> Floats:
        """The costs of some joins with what is listened for; float32, same shape."""
        total = cost.copy()
        for respect in RESPECTS:
            weight = listening.of(respect)
            more = _USUAL_COST[respect] * weight + (_MORE_COST if weight > 1 else _LESS_COST) * (weight - 1)
            if more:
                total += np.float32(more) * self.apart(respect, beat_from, beat_to)
        return np.maximum(total, np.float32(_LEAST_COST))

    def apart(self, respect: Respect, beat_from: Ints, beat_to: Ints) -> Floats:
        """How far what comes after each join is from what was due, in the unit of the respect; (joins,)."""
        bars, unit = self._in(respect)
        if not bars.size:
            return np.zeros(beat_from.size, dtype=np.float32)
        last = bars.shape[0] - 1
        due, comes = (bars[np.clip(beats, 0, last)] for beats in (beat_from, beat_to))
        far = _other_notes(due, comes) if respect == "harmony" else apart(due, comes)
        return np.minimum(far / np.float32(unit), np.float32(_FURTHEST))

    def _in(self, respect: Respect) -> tuple[Floats, float]:
        if respect not in self._bars:
            self._bars[respect] = _bars_in(respect, self._chart)
        return self._bars[respect]


def _bars_in(respect: Respect, chart: Chart) -> tuple[Floats, float]:
    """The bar from each beat on in one respect, (beats, ...), and the unit of how far two of them lie apart."""
    if respect == "harmony":
        return _notes_of(chart), _OTHER_CHORD
    bars = _sound_of(respect, chart)
    step = np.arange(max(0, bars.shape[0] - _BEATS))
    usual = float(np.median(apart(bars[step], bars[step + _BEATS]))) if step.size else 0.0
    return bars, usual or 1.0


def _sound_of(respect: Respect, chart: Chart) -> Floats:
    if respect == "colour":
        return _following(chart.features[:, COLOUR])
    if respect == "voice":
        return _following(chart.voice[:, None])
    if respect == "level":
        return _following(chart.intensity[:, None]).mean(axis=1, keepdims=True)
    pattern = _following(chart.features[:, _LEVELS])  # the groove: when it is loud, however loud it is
    return np.asarray(pattern - pattern.mean(axis=1, keepdims=True), dtype=np.float32)


def _notes_of(chart: Chart) -> Floats:
    """How likely each pitch class sounds in each two beats of the bar from each beat on, (beats, 2, 12)."""
    silent = _following(1 - chart.pitches).reshape(chart.beats.size, -1, _TOGETHER, chart.pitches.shape[1])
    return np.asarray(1 - silent.prod(axis=2), dtype=np.float32)


def _other_notes(due: Floats, comes: Floats) -> Floats:
    """The share of notes that sound on one side only, as is to be expected, up to another chord (Jaccard 1901); (joins,)."""
    either, both = np.maximum(due, comes).sum(axis=2), np.minimum(due, comes).sum(axis=2)
    share = ((either - both) / np.maximum(either, 1e-6)).mean(axis=1)
    return np.asarray(np.minimum(share, _OTHER_CHORD), dtype=np.float32)


def _following(values: NDArray) -> Floats:
    """The values of each beat and of those after it, side by side."""
    n = values.shape[0]
    at = np.minimum(np.arange(n)[:, None] + np.arange(_BEATS), n - 1)
    return np.asarray(values[at].reshape(n, -1), dtype=np.float32)
