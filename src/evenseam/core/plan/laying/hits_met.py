"""What became of the hits of a brief: which the music meets, and by how much it misses the others."""

from collections.abc import Sequence

import numpy as np

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import Aim
from evenseam.core.plan.model import HitMet, Passage, Rest
from evenseam.core.plan.search.aims import on_the_way, places_for
from evenseam.core.plan.search.labels import Route
from evenseam.core.plan.search.openings import LEAD_S


def hits_met(
    chart: Chart, aims: Sequence[Aim], passages: Sequence[Passage], rests: Sequence[Rest], route: Route
) -> tuple[HitMet, ...]:
    """Every aim in order of time, with the place of the track that meets it or comes nearest."""
    numbered = on_the_way(aims)
    met = {numbered[m.number]: (m.source_samples, passages[m.seams_before]) for m in route.met}
    return tuple(
        _silence(chart, aim, passages, rests) if aim.kind == "silence" else _hit(chart, aim, passages, met.get(aim))
        for aim in sorted(aims, key=lambda a: a.at_samples)
    )


def _silence(chart: Chart, aim: Aim, passages: Sequence[Passage], rests: Sequence[Rest]) -> HitMet:
    """Where a silence begins that lasts as long as it was asked for; None where there is none."""
    until = aim.at_samples if aim.until_samples is None else aim.until_samples
    latest, soonest = aim.at_samples + aim.tolerance_samples, until - round(LEAD_S * chart.rate) - aim.tolerance_samples
    begins = next((r.out_in_samples for r in rests if r.out_in_samples <= latest and r.out_out_samples >= soonest), None)
    source = next((p.source_out_samples for p in passages if p.out_out_samples == begins), None)
    return HitMet(aim.at_samples, begins, aim.kind, aim.weight, aim.tolerance_samples, source, aim.label)


def _hit(chart: Chart, aim: Aim, passages: Sequence[Passage], met: tuple[int, Passage] | None) -> HitMet:
    source, landed = (met[0], _out_at(met[1], met[0])) if met else _nearest(chart, aim, passages)
    return HitMet(aim.at_samples, landed, aim.kind, aim.weight, aim.tolerance_samples, source, aim.label)


def _out_at(passage: Passage, source_samples: int) -> int:
    return round(float(passage.time_map().out_at(np.array([source_samples]))[0]))


def _nearest(chart: Chart, aim: Aim, passages: Sequence[Passage]) -> tuple[int | None, int | None]:
    """The nearest place that would have done, on the track and on the output; None where there is none."""
    is_last = aim.kind == "last_hit"
    places = np.array([chart.last_hit_samples]) if is_last else chart.beats[places_for(aim, chart)]
    nearest: tuple[int, int, int] | None = None  # how far off, where it landed, its source
    for passage in sorted(passages, key=lambda p: _away(p, aim.at_samples)):
        if nearest is not None and nearest[0] < _away(passage, aim.at_samples):
            break
        there = places[(places >= passage.source_in_samples) & (places < passage.source_out_samples)]
        landed = np.rint(passage.time_map().out_at(there)).astype(np.int64)
        heard = zip(np.abs(landed - aim.at_samples).tolist(), landed.tolist(), there.tolist(), strict=True)
        nearest = min((of for of in (nearest, *heard) if of is not None and of[1] >= 0), default=None)
    return (None, None) if nearest is None else (nearest[2], nearest[1])


def _away(passage: Passage, at_samples: int) -> int:
    """How far a passage lies from a sample of the output."""
    return max(0, passage.out_in_samples - at_samples, at_samples - passage.out_out_samples)
