"""What is heard in a plan, in the order of the track's sections, and how far two plans are apart in that."""

from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.model import Plan

_MOMENTS = 200
_ELSEWHERE_S = 0.5  # so far away in the track something else is heard
_LEAST_S = 1.0  # of a section, before it is said to be heard


def sections_heard(plan: Plan, chart: Chart) -> str:
    """The letters of the sections in the order in which they are heard: 'A B C B'; one that plays on is said once."""
    starts = np.array([s.start_samples for s in chart.sections], dtype=np.int64)
    letters: list[tuple[str, int]] = []
    for passage in plan.passages:
        edges = np.concatenate([[passage.source_in_samples], starts, [passage.source_out_samples]])
        edges = np.unique(np.clip(edges, passage.source_in_samples, passage.source_out_samples))
        for start, end in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            section = int(np.searchsorted(starts, start, side="right")) - 1
            if section >= 0 and end - start >= _LEAST_S * chart.rate:
                letters.append((chart.sections[section].label, section))
    return " ".join(letter for (letter, _), _ in groupby(letters))


def apart(a: Plan, b: Plan) -> float:
    """The share of the time, 0 to 1, at which two plans of a track play different places of it."""
    differ = np.abs(_sources(a) - _sources(b)) > _ELSEWHERE_S * a.rate
    return float(differ.mean())


def _sources(plan: Plan) -> NDArray[np.float64]:
    """The samples of the track that sound at evenly spaced moments; far below 0 where nothing does."""
    at = (2 * np.arange(_MOMENTS) + 1) * plan.target_samples // (2 * _MOMENTS)
    out = np.full(_MOMENTS, -1e12)
    for passage in plan.passages:
        inside = (at >= passage.out_in_samples) & (at < passage.out_out_samples)
        out[inside] = passage.time_map().source_at(at[inside])
    return out
