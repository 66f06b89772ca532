"""From a route to a plan: cuts to the sample, and the milliseconds that are left spread as give."""

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.align import Cut
from evenseam.core.plan.model import Fade, Landing, Passage, Pin, Plan, Seam
from evenseam.core.plan.search.joins import Joins, grade
from evenseam.core.plan.search.labels import Route

_LAST_HIT_LEAD_S = 0.018  # the ring-out's own speed begins just before the last hit, so that its attack stays whole
SLACK_S = 0.020  # up to this much is taken from, or left to, the very end of the ring-out instead of any stretching
_FADE_IN_S, _FADE_OUT_S = 0.002, 0.010  # so that a head or a ring-out that is cut, or its hiss, does not tick


def assemble(chart: Chart, joins: Joins, route: Route, cuts: Sequence[Cut], target_samples: int) -> Plan:
    """Spread and lay out a route, cut at `cuts`, so that it is `target_samples` long exactly."""
    spans, speed = _speed(chart, _spans(chart, cuts), target_samples)
    passages = _lay_out(chart, spans, speed, target_samples)
    seams = tuple(
        _seam(chart, joins, cut, pair, passage.out_in_samples)
        for cut, pair, passage in zip(cuts, route.seams, passages[1:], strict=True)
    )
    return Plan(
        method="rearrange",
        rate=chart.rate,
        target_samples=target_samples,
        passages=passages,
        seams=seams,
        score=route.cost,
        landing=Landing("ring_out", _last_hit_at(chart, passages[-1])),
        fade_in=Fade(round(_FADE_IN_S * chart.rate) if passages[0].source_in_samples > 0 else 0),
        fade_out=Fade(round(_FADE_OUT_S * chart.rate)),
    )


def _last_hit_at(chart: Chart, last: Passage) -> int:
    return round(float(last.time_map().out_at(np.array([chart.last_hit_samples]))[0]))


def _spans(chart: Chart, cuts: Sequence[Cut]) -> list[tuple[int, int]]:
    """Source stretches between the cuts, from the opening to the end of the ring-out."""
    starts = [chart.music_start_samples, *(c.source_to for c in cuts)]
    ends = [*(c.source_from for c in cuts), chart.ring_out_end_samples]
    return list(zip(starts, ends, strict=True))


def _speed(chart: Chart, spans: list[tuple[int, int]], target: int) -> tuple[list[tuple[int, int]], Fraction]:
    """The speed of all music before the ring-out (source samples per output sample), and the spans with the end set."""
    over = sum(end - start for start, end in spans) - target
    start, end = spans[-1]
    if abs(over) <= SLACK_S * chart.rate and end - over <= chart.n_samples and end - over > _ring_out_from(chart):
        return [*spans[:-1], (start, end - over)], Fraction(1)
    ring_out = end - _ring_out_from(chart)
    return spans, Fraction(target - ring_out + over, target - ring_out)


def _ring_out_from(chart: Chart) -> int:
    return chart.last_hit_samples - round(_LAST_HIT_LEAD_S * chart.rate)


def _lay_out(chart: Chart, spans: list[tuple[int, int]], speed: Fraction, target: int) -> tuple[Passage, ...]:
    """Lay the spans end to end; positions are rounded once, from the exact sum, so that nothing drifts."""
    passages, played = [], 0
    for number, (start, end) in enumerate(spans):
        last = number == len(spans) - 1
        stretched_end = _ring_out_from(chart) if last else end
        pins = [Pin(s, round((played + s - start) / speed)) for s in (start, stretched_end)]
        if last and speed == 1:
            pins = [pins[0], Pin(end, target)]
        elif last:
            pins.append(Pin(end, target))
        passages.append(Passage(tuple(pins)))
        played += end - start
    return tuple(passages)


def _seam(chart: Chart, joins: Joins, cut: Cut, pair: tuple[int, int], out: int) -> Seam:
    i, j = pair
    percentile = joins.percentile(i, j)
    return Seam(
        out_samples=out,
        source_from_samples=cut.source_from,
        source_to_samples=cut.source_to,
        fade_samples=cut.fade_samples,
        correlation=round(cut.correlation, 6),
        percentile=round(percentile, 2),
        grade=grade(percentile),
        short_bar=bool(np.not_equal(chart.beat_in_bar[i], chart.beat_in_bar[j])),
        kind="breath" if chart.free_time else "beat",
    )
