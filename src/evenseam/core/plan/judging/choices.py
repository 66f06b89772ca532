"""Which bars could land on a hit in the place of the one that does, and what each makes of the speed on either side of it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import MOST_GIVE_PCT
from evenseam.core.plan.model import HitMet, Passage, Plan
from evenseam.core.plan.search.aims import places_of

_OFFERED = 2  # on either side of what lies nearest
_MET_ON_A_BEAT = ("downbeat", "beat", "section")


@dataclass(frozen=True, slots=True)
class BarChoice:
    """A beat of the track that could land on a hit: which of which bar (from 1; bar 0 is before the first bar line).

    `beats_before`: how many beats are then played since what is held before the hit. The speeds are those that the music
    needs from there to the hit, and from the hit to what is held next, all else staying where it is: in per cent, above 0 is
    faster; None where nothing is held.
    """

    source_samples: int
    bar: int
    beat: int
    beats_before: int | None
    before_pct: float | None
    after_pct: float | None


@dataclass(frozen=True, slots=True)
class HitChoices:
    """What could land on a hit, in the order of the track; `source_samples`: what does now, None where it is missed.

    `held_before_samples`, `held_after_samples`: the places of the output between which only this hit moves anything.
    """

    asked_samples: int
    source_samples: int | None
    held_before_samples: int | None
    held_after_samples: int | None
    choices: tuple[BarChoice, ...]


@dataclass(frozen=True, slots=True)
class _Place:
    source_samples: int
    out_samples: int


def choices_of(plan: Plan, chart: Chart) -> tuple[HitChoices, ...]:
    """The hits of a plan that are met on a beat, each with the bars that could meet it; none of a track without beats.

    A hit moves what is held to it within its passage: the start of the music, the hits beside it, its last hit. What lies
    beyond a seam moves freely.
    """
    if chart.free_time or not chart.beats.size:
        return ()
    return tuple(made for hit in plan.hits if (made := _choices(plan, chart, hit)) is not None)


def _choices(plan: Plan, chart: Chart, hit: HitMet) -> HitChoices | None:
    at, now = hit.asked_samples, hit.source_samples if hit.is_kept else None
    passage = next((p for p in plan.passages if p.out_in_samples <= at < p.out_out_samples), None)
    if hit.kind not in _MET_ON_A_BEAT or passage is None:
        return None
    held = _held(plan, chart, passage)
    before = max((p for p in held if p.out_samples < at), key=_out, default=None)
    after = min((p for p in held if p.out_samples > at), key=_out, default=None)
    there = _there(chart, passage, places_of(hit.kind, chart), at, now, (before, after))
    since, until = (None if place is None else place.out_samples for place in (before, after))
    return HitChoices(at, now, since, until, _weighed(chart, there, at, before, after))


def _out(place: _Place) -> int:
    return place.out_samples


def _held(plan: Plan, chart: Chart, passage: Passage) -> list[_Place]:
    """What is held in a passage, beside its seams: hits, the start of the music, and its last hit."""
    held = [
        _Place(hit.source_samples, hit.asked_samples)
        for hit in plan.hits
        if hit.is_kept and hit.source_samples is not None and hit.kind != "silence"
        if passage.source_in_samples <= hit.source_samples < passage.source_out_samples
        if passage.out_in_samples <= hit.asked_samples < passage.out_out_samples
    ]
    if passage is plan.passages[0] and passage.out_in_samples == 0:
        held.append(_Place(passage.source_in_samples, 0))
    last = plan.landing.last_hit_samples
    if passage is plan.passages[-1] and plan.landing.kind != "fade" and last is not None:
        held.append(_Place(chart.last_hit_samples, last))
    return held


def _there(
    chart: Chart, passage: Passage, does: NDArray[np.bool_], at: int, now: int | None, ends: tuple[_Place | None, _Place | None]
) -> Sequence[int]:
    """Beats, by number, that lie nearest to what is heard at a moment, and the one that meets it now."""
    first, last = (place.source_samples if place else edge for place, edge in zip(ends, _edges(passage), strict=True))
    beats = np.flatnonzero(does & (chart.beats > first) & (chart.beats < last))
    heard = float(passage.time_map().source_at(np.array([at]))[0]) if now is None else now
    middle = int(np.searchsorted(chart.beats[beats], heard))
    near = set(beats[max(0, middle - _OFFERED) : middle + _OFFERED + 1].tolist())
    return sorted(near | set(np.flatnonzero(chart.beats == now).tolist() if now is not None else ()))


def _edges(passage: Passage) -> tuple[int, int]:
    return passage.source_in_samples - 1, passage.source_out_samples


def _weighed(chart: Chart, beats: Sequence[int], at: int, before: _Place | None, after: _Place | None) -> tuple[BarChoice, ...]:
    bars = np.cumsum(chart.beat_in_bar == 0)
    made = []
    for number in beats:
        source = int(chart.beats[number])
        pct = _speed_pct(before, _Place(source, at)), _speed_pct(_Place(source, at), after)
        if any(p is not None and abs(p) > MOST_GIVE_PCT for p in pct):
            continue
        since = None if before is None else number - int(np.searchsorted(chart.beats, before.source_samples))
        made.append(BarChoice(source, int(bars[number]), int(chart.beat_in_bar[number]) + 1, since, *pct))
    return tuple(made)


def _speed_pct(start: _Place | None, end: _Place | None) -> float | None:
    """How much faster than the track the music goes from one place to another, in per cent."""
    if start is None or end is None:
        return None
    return 100 * ((end.source_samples - start.source_samples) / (end.out_samples - start.out_samples) - 1)
