"""Why a seam is where it is, in words: what goes on across it and what does not.

What comes after a seam is set beside what would have come. Distances are in units of how far neighbouring beats of the track
lie apart in the same respect, so that they mean the same in any music.
"""

from collections.abc import Iterator

import numpy as np

from evenseam.core.chart.chart import VOICE_FROM, Chart
from evenseam.core.plan.search.joins import Joins

_BEATS = 4
_SAME, _MUCH_THE_SAME = 0.45, 0.8  # of a usual step
_LEVEL_STEP = 0.12  # of intensity, 0 to 1
_CUT_OFF, _HELD = 0.35, 1.0  # notes: of seams said to cut one off three in five do, of the others one in fourteen


def reason_for(chart: Chart, joins: Joins, beat_from: int, beat_to: int) -> str:
    """What matches across a seam and what does not, the notes first: 'the same notes, other sound; inside a voice'."""
    return "; ".join(_said(chart, joins, beat_from, beat_to))


def _said(chart: Chart, joins: Joins, i: int, j: int) -> Iterator[str]:
    notes, colour = joins.apart_after(i, j, _BEATS)
    alike = _degree(notes), _degree(colour)
    yield f"{alike[0]} notes and sound" if alike[0] == alike[1] else f"{alike[0]} notes, {alike[1]} sound"
    due, comes = (_mean_of(chart.intensity, k) for k in (i, j))
    if abs(comes - due) > _LEVEL_STEP:
        yield "fuller than what was due" if comes > due else "thinner than what was due"
    if _is_sung(chart, i) or _is_sung(chart, j):
        yield "inside a voice"
    held, cut_off = joins.held_across(i, j)
    if cut_off > _CUT_OFF:
        yield "cuts off what is held"
    elif held > _HELD:
        yield "what is held goes on"


def _degree(apart: float) -> str:
    return "the same" if apart < _SAME else "much the same" if apart < _MUCH_THE_SAME else "other"


def _mean_of(values: np.ndarray, at: int) -> float:
    return float(values[at : at + _BEATS].mean()) if at < values.size else 0.0


def _is_sung(chart: Chart, beat: int) -> bool:
    """Whether a voice sounds on both sides of where a beat starts."""
    around = chart.voice[max(0, beat - 1) : beat + 1]
    return around.size == 2 and bool(around.min() >= VOICE_FROM)
