"""What the sections of a piece are for: intro, break, build and ending, told by where they come and how full they are."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart, Section

Role = Literal["", "intro", "break", "build", "ending"]
_THINNER, _FULLER = 0.12, 0.15  # in intensity, which is 0 to 1 within a piece
_SHORT = 0.4  # of the usual length of a section


def roles_of(chart: Chart) -> tuple[Role, ...]:
    """A role for each section, '' for those that are plainly the piece.

    intro: the first, where it is thinner or much shorter than what follows. ending: the last, where it never came before or
    is much shorter than the others. break: inside, and thinner than both its neighbours. build: inside, grows fuller, and
    what follows is fuller still.
    """
    sections = chart.sections
    roles: list[Role] = [""] * len(sections)
    if len(sections) < 3:
        return tuple(roles)
    parts = [_intensity_in(chart, s) for s in sections]
    means = np.array([float(p.mean()) if p.size else 0.0 for p in parts])
    lengths = np.array([s.end_samples - s.start_samples for s in sections])
    usual = float(np.median(lengths))
    for k in range(1, len(sections) - 1):
        if means[k] < min(means[k - 1], means[k + 1]) - _THINNER:
            roles[k] = "break"
        elif _growth(parts[k]) > _FULLER and means[k + 1] > means[k]:
            roles[k] = "build"
    if lengths[0] < _SHORT * usual or means[0] < np.median(means[1:]) - _THINNER:
        roles[0] = "intro"
    if lengths[-1] < _SHORT * usual or all(s.label != sections[-1].label for s in sections[:-1]):
        roles[-1] = "ending"
    return tuple(roles)


def _intensity_in(chart: Chart, section: Section) -> NDArray[np.float32]:
    first, last = np.searchsorted(chart.beats, [section.start_samples, section.end_samples])
    return chart.intensity[first:last]


def _growth(intensity: NDArray[np.float32]) -> float:
    """How much fuller the last third of a section is than its first."""
    third = intensity.size // 3
    return float(intensity[-third:].mean() - intensity[:third].mean()) if third else 0.0
