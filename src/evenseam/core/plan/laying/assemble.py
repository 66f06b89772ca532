"""From a route to a plan: cuts to the sample, what is left over taken from the tail, and what then remains spread as give."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import Aim, Brief
from evenseam.core.plan.laying.hits_met import hits_met
from evenseam.core.plan.laying.on_output import Span, aimed, held_places, lay_out
from evenseam.core.plan.laying.reasons import reason_for
from evenseam.core.plan.laying.waveforms import Cut
from evenseam.core.plan.model import Fade, Landing, Opening, Passage, Plan, Rest, Seam
from evenseam.core.plan.search.aims import on_the_way
from evenseam.core.plan.search.joins import Joins, grade
from evenseam.core.plan.search.labels import Route
from evenseam.core.plan.search.openings import opened_at, opening_fade, opening_kind
from evenseam.core.plan.tail import Ending, Tail, fade_samples, own_speed_from

_STOP_FADE_S = 0.25  # into a silence


def assemble(chart: Chart, joins: Joins, route: Route, cuts: Sequence[Cut], brief: Brief, last_hit: Aim | None = None) -> Plan:
    """Spread and lay out a route, cut at `cuts`, so that it is as long as the brief asks, exactly.

    `last_hit`: where the last hit is to fall, if that is asked for; the ring-out then takes what room there is.
    """
    target = brief.target_samples
    ending = Ending.of(chart, brief, None if route.fades_on is None else int(chart.beats[route.fades_on]))
    spans, gaps = _spans(chart, route, cuts, ending)
    held = held_places(chart, spans, route, on_the_way(brief.aims), brief.give_pct)
    edit, tail = sum(end - start for start, end in spans), Tail.of(chart, brief)
    if last_hit is not None:
        held.append(aimed(chart, held[-1], edit - ending.n_samples, last_hit, brief.give_pct))
        tail = Tail(ending.n_samples, target, tail.unheard_samples)
    over = edit - held[-1].edit_samples - (target - held[-1].out_samples)
    ended = _ended(chart, over, tail, ending)
    spans[-1] = (spans[-1][0], spans[-1][1] - ended.early_samples)
    laid = lay_out(chart, spans, held, target - ended.silence_samples, own_speed_from(chart, ending))
    passages = tuple(piece for k, piece in enumerate(laid) if k not in gaps)
    opening = Opening(opening_kind(chart, route.opens_on))
    fade = _fade(chart, ending, ended)
    silence = (Rest(target - ended.silence_samples, target, fade, Fade(0)),) if ended.silence_samples else ()
    rests = (*(_rest(chart, laid[k]) for k in gaps), *silence)
    return Plan(
        method=brief.method,
        rate=chart.rate,
        target_samples=target,
        passages=passages,
        seams=_seams(chart, joins, route, cuts, passages),
        score=route.cost,
        rests=rests,
        hits=hits_met(chart, brief.aims, passages, rests, route),
        landing=_landing(chart, ending, passages[-1], last_hit is not None),
        opening=opening,
        fade_in=opening_fade(chart, opening.kind),
        fade_out=Fade(0) if silence else fade,
    )


def _rest(chart: Chart, gap: Passage) -> Rest:
    """The silence in the place of a gap: the music fades into it, and comes back on an attack."""
    before = Fade(round(_STOP_FADE_S * chart.rate), "cosine")
    return Rest(gap.out_in_samples, gap.out_out_samples, before, opening_fade(chart, "bar"))


@dataclass(frozen=True, slots=True)
class _Ended:
    """How much sooner a ring-out is ended (below 0: later), and the silence after it; `is_heard`: whether that is a choice."""

    early_samples: int
    silence_samples: int
    is_heard: bool


def _ended(chart: Chart, over: int, tail: Tail, ending: Ending) -> _Ended:
    """What the tail makes up for of so many samples too many."""
    taken = int(tail.takes(np.array(over)))
    if ending.is_fade:
        return _Ended(taken, 0, is_heard=True)
    goes_on = -tail.unheard_samples <= taken and chart.ring_out_end_samples - taken <= chart.n_samples
    if taken >= 0 or goes_on:
        return _Ended(taken, 0, taken > tail.unheard_samples)
    return _Ended(0, -taken, is_heard=False)


def _fade(chart: Chart, ending: Ending, ended: _Ended) -> Fade:
    """The fade at the end of the music."""
    if ending.is_fade:
        return Fade(ending.n_samples - ended.early_samples, "cosine")
    return Fade(fade_samples(chart, max(0, ended.early_samples)), "cosine" if ended.is_heard else "linear")


def _landing(chart: Chart, ending: Ending, last: Passage, aims_at_last_hit: bool) -> Landing:
    if ending.is_fade:
        return Landing("fade")
    last_hit = round(float(last.time_map().out_at(np.array([chart.last_hit_samples]))[0]))
    return Landing("last_hit" if aims_at_last_hit else "ring_out", last_hit)


def _spans(chart: Chart, route: Route, cuts: Sequence[Cut], ending: Ending) -> tuple[list[Span], list[int]]:
    """Source stretches between the cuts, from the opening to the end of the ending, and which of them are gaps.

    A gap stands for a silence on the way: it is laid out like any stretch, and then nothing is played there.
    """
    starts = [opened_at(chart, route.opens_on), *(c.source_to for c in cuts)]
    ends = [*(c.source_from for c in cuts), ending.end_samples]
    rests = {anew.seam: anew for anew in route.anew if anew.rest_samples}
    spans: list[Span] = []
    gaps: list[int] = []
    for number, span in enumerate(zip(starts, ends, strict=True)):
        spans.append(span)
        if number in rests:
            gaps.append(len(spans))
            spans.append((0, rests[number].rest_samples - (rests[number].entered_samples - cuts[number].source_to)))
    return spans, gaps


def _seams(chart: Chart, joins: Joins, route: Route, cuts: Sequence[Cut], passages: Sequence[Passage]) -> tuple[Seam, ...]:
    """The seams between the passages of a route; where it rests there is none."""
    anew = {seam.seam: seam for seam in route.anew}
    return tuple(
        _seam(chart, joins, cut, route.seams[number], passages[number + 1].out_in_samples, number in anew)
        for number, cut in enumerate(cuts)
        if number not in anew or not anew[number].rest_samples
    )


def _seam(chart: Chart, joins: Joins, cut: Cut, pair: tuple[int, int], out: int, is_anew: bool) -> Seam:
    i, j = pair
    percentile = 0.0 if is_anew else joins.sides.percentile(i, j)  # no bar line of the track is so great a change
    return Seam(
        out_samples=out,
        source_from_samples=cut.source_from,
        source_to_samples=cut.source_to,
        fade_samples=cut.fade_samples,
        correlation=round(cut.correlation, 6),
        percentile=round(percentile, 2),
        grade=grade(percentile),
        short_bar=not is_anew and bool(np.not_equal(chart.beat_in_bar[i], chart.beat_in_bar[j])),
        kind="anew" if is_anew else "breath" if chart.free_time else "beat",
        reason="the beat breaks off to start anew on a hit" if is_anew else reason_for(chart, joins, i, j),
    )
