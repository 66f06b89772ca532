"""From a route to a plan: cuts to the sample, and the milliseconds that are left spread as give."""

from fractions import Fraction

import numpy as np

from evenseam.core.audio.decode import Sound
from evenseam.core.chart.chart import Chart
from evenseam.core.plan.align import Cut, find_breath_cut, find_cut
from evenseam.core.plan.joins import Joins, grade
from evenseam.core.plan.plan import Anchor, Passage, Plan, Seam
from evenseam.core.plan.search import Route

_LAST_HIT_LEAD_S = 0.018  # the ring-out's own speed begins just before the last hit, so that its attack stays whole
_SLACK_S = 0.020  # up to this much is taken from, or left to, the very end of the ring-out instead of any stretching
_ANCHOR_EVERY_S = 8.0  # stretched music is rendered span by span, so that any moment of it is near at hand


def assemble(chart: Chart, samples: Sound, joins: Joins, route: Route, target_samples: int) -> Plan:
    """Cut, spread and lay out a route so that it is `target_samples` long exactly."""
    cut = find_breath_cut if chart.free_time else find_cut
    cuts = [cut(samples, chart.rate, int(chart.beats[i]), int(chart.beats[j])) for i, j in route.seams]
    spans = _spans(chart, cuts)
    spans, speed = _speed(chart, spans, target_samples)
    passages = _lay_out(chart, spans, speed, target_samples)
    seams = tuple(
        _seam(chart, joins, cut, pair, passage.out_in_samples)
        for cut, pair, passage in zip(cuts, route.seams, passages[1:], strict=True)
    )
    return Plan("rearrange", chart.rate, target_samples, passages, seams, route.cost)


def _spans(chart: Chart, cuts: list[Cut]) -> list[tuple[int, int]]:
    """Source stretches between the cuts, from the opening to the end of the ring-out."""
    starts = [chart.music_start_samples, *(c.source_to for c in cuts)]
    ends = [*(c.source_from for c in cuts), chart.ring_out_end_samples]
    return list(zip(starts, ends, strict=True))


def _speed(chart: Chart, spans: list[tuple[int, int]], target: int) -> tuple[list[tuple[int, int]], Fraction]:
    """The speed of all music before the ring-out (source samples per output sample), and the spans with the end set."""
    over = sum(end - start for start, end in spans) - target
    start, end = spans[-1]
    if abs(over) <= _SLACK_S * chart.rate and end - over <= chart.n_samples and end - over > _ring_out_from(chart):
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
        sources = [start, *_inner_anchors(chart, start, stretched_end, speed), stretched_end]
        anchors = [Anchor(s, round((played + s - start) / speed)) for s in sources]
        if last:
            anchors.append(Anchor(end, target))
            if speed == 1:
                anchors = [anchors[0], anchors[-1]]
        passages.append(Passage(tuple(anchors)))
        played += end - start
    return tuple(passages)


def _inner_anchors(chart: Chart, start: int, end: int, speed: Fraction) -> list[int]:
    """Downbeats some 8 seconds apart inside a stretched passage; none where nothing is stretched."""
    if speed == 1:
        return []
    every = round(_ANCHOR_EVERY_S * chart.rate)
    chosen: list[int] = []
    lead = round(_LAST_HIT_LEAD_S * chart.rate)
    for downbeat in chart.downbeats - lead:
        if downbeat - (chosen[-1] if chosen else start) >= every and end - downbeat >= every // 2:
            chosen.append(int(downbeat))
    return chosen


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
