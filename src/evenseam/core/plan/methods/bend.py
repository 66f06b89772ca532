"""Bend: one passage whose speed is bent so that its beats land on the hits. Nothing is cut; the tempo moves instead."""

from dataclasses import replace
from itertools import pairwise
from math import ceil

import numpy as np

from evenseam.core.chart.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import MOST_GIVE_PCT, Aim, Brief
from evenseam.core.plan.laying.hits_met import hits_met
from evenseam.core.plan.model import Fade, Landing, Opening, OpeningKind, Passage, Pin, Plan, Rest
from evenseam.core.plan.offer import Offer
from evenseam.core.plan.search.aims import MISSED_COST, on_the_way, places_for
from evenseam.core.plan.search.labels import SPEED_COST, STRETCH_COST_PER_PCT2, Met, Route
from evenseam.core.plan.search.openings import opening_fade
from evenseam.core.plan.tail import Ending, Tail, after_samples, fade_samples, own_speed_from
from evenseam.core.tempo import Held, Moment, bent, chosen
from evenseam.core.timebase import format_clock

USUAL_MOST_PCT = 10.0
_MARGIN = 1e-4  # of give: pins are whole samples
_CURVE_SHARE = 0.75  # of give, for the choice of beats: what is left lets the curve be smooth


class Bend:
    """From the opening to the ending, or into a fade: chooses the beats that land on the hits, then bends smoothly between."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """The one plan there is. Raises: NoPlanError where no bending within give brings the track to length."""
        chart = offer.chart
        if chart.free_time or chart.beats.size < 2:
            raise NoPlanError("No beats were heard in this track to bend. Stretch it, or correct its beats.")
        give = max(0.0, _most_pct(brief) / 100 - _MARGIN)
        if brief.held_bars:
            return (_following(chart, brief, give),)[:count]
        aims = [aim for aim in on_the_way(brief.aims) if aim.kind != "silence"]
        for end in _ends(chart, brief):
            held = _held(chart, aims, end, give, brief.target_samples)
            if held is not None and offer.allows(chart.music_start_samples, _played_to(chart, brief, held, end)):
                return (_plan(chart, brief, held, end, give),)[:count]
        raise _too_far(chart, brief, give)


def _most_pct(brief: Brief) -> float:
    return USUAL_MOST_PCT if brief.give_pct is None else brief.give_pct


def _ends(chart: Chart, brief: Brief) -> list[Held | None]:
    """Where the last hit may land, the best first: where it is asked for, or as the tail lets it; anywhere before a fade."""
    if brief.landing == "fade":
        return [None]
    lead = chart.last_hit_samples - own_speed_from(chart, Ending.of(chart, brief, None))
    asked = [aim.at_samples for aim in brief.aims if aim.kind == "last_hit"]
    usual = brief.target_samples - after_samples(chart, brief)
    tail = Tail.of(chart, brief)
    taken = int(tail.takes(np.array(chart.last_hit_samples - chart.music_start_samples - usual)))
    soonest_first = [*asked[-1:], usual + taken, usual]
    return [Held(chart.last_hit_samples - lead, at - lead) for at in dict.fromkeys(soonest_first) if at > lead]


def _held(chart: Chart, aims: list[Aim], end: Held | None, give: float, length: int) -> tuple[Held, ...] | None:
    """The opening, the beats that land on the hits, and the end, if there is one; None where it is out of reach."""
    last = chart.last_hit_samples if end is None else end.source_samples
    beats = chart.beats[(chart.beats > chart.music_start_samples) & (chart.beats < last)]
    moments = [
        Moment(
            aim.at_samples,
            beats[np.isin(beats, chart.beats[places_for(aim, chart)])],
            MISSED_COST[aim.weight],
            aim.tolerance_samples,
        )
        for aim in aims
    ]
    cost = STRETCH_COST_PER_PCT2 / length
    start = Held(chart.music_start_samples, 0)
    furthest = chosen(start, moments, end, give, cost)
    smoother = chosen(start, moments, end, _CURVE_SHARE * give, cost)
    return smoother if smoother and furthest and _missed(moments, smoother) <= _missed(moments, furthest) else furthest


def _missed(moments: list[Moment], held: tuple[Held, ...]) -> float:
    met = {h.moment for h in held}
    return sum(moment.missed_cost for k, moment in enumerate(moments) if k not in met)


def _played_to(chart: Chart, brief: Brief, held: tuple[Held, ...], end: Held | None) -> int:
    """The sample of the track after the last that is heard."""
    if end is None:
        return min(chart.n_samples, held[-1].source_samples + brief.target_samples - held[-1].out_samples)
    return min(chart.ring_out_end_samples, end.source_samples + brief.target_samples - end.out_samples)


def _following(chart: Chart, brief: Brief, give: float) -> Plan:
    """The track as a map has it, to its own ending where that is reached, else into a fade. Raises: NoPlanError."""
    starts, last_hit = chart.music_start_samples, chart.last_hit_samples
    inside = [Held(*bar) for bar in brief.held_bars if bar[1] < brief.target_samples and starts < bar[0] <= last_hit]
    if not inside:
        raise NoPlanError("No bar of this track lies in the slot as the map has it. Let go of the map, or move the cue.")
    held = (_start(starts, inside[0], give), *inside)
    worst = max((_change(a, b) for a, b in pairwise(held)), key=abs)
    if abs(worst) > give:
        raise _beyond_give(brief, 100 * worst)
    lands = held[-1].out_samples + last_hit - held[-1].source_samples
    ring_out = chart.ring_out_end_samples - last_hit
    is_whole = brief.landing != "fade" and lands + ring_out - Tail.of(chart, brief).early_samples <= brief.target_samples
    return _plan(chart, brief, held, Held(last_hit, lands) if is_whole else None, give)


def _change(a: Held, b: Held) -> float:
    """How much faster the music is from one held place to the next; a fraction."""
    return (b.source_samples - a.source_samples) / (b.out_samples - a.out_samples) - 1


def _start(starts: int, bar: Held, give: float) -> Held:
    """What leads up to the first bar: bent if that can be, else at its own speed, after a silence or from further in."""
    start = Held(starts, 0)
    if abs(_change(start, bar)) <= give:
        return start
    late = bar.out_samples - (bar.source_samples - starts)
    return Held(starts, late) if late >= 0 else Held(starts - late, 0)


def _beyond_give(brief: Brief, worst_pct: float) -> NoPlanError:
    """The refusal, with the smallest give that would do."""
    needed = ceil(10 * (abs(worst_pct) + 100 * _MARGIN)) / 10
    does = "Correct the map, or" if needed > MOST_GIVE_PCT else f"Allow {needed:g} %, or"
    return NoPlanError(
        f"The map needs the track {abs(worst_pct):.1f} % {'faster' if worst_pct > 0 else 'slower'} than it is, "
        f"and {_most_pct(brief):g} % are allowed. {does} let go of the map.",
        needed_pct=needed,
    )


def _as_it_falls(chart: Chart, aims: list[Aim], passage: Passage) -> list[Held]:
    """The aims that beats meet where they lie."""
    met = []
    inside = (chart.beats >= passage.source_in_samples) & (chart.beats < passage.source_out_samples)
    for number, aim in enumerate(aims):
        sources = chart.beats[inside & places_for(aim, chart)]
        outs = np.rint(passage.time_map().out_at(sources)).astype(np.int64)
        near = np.flatnonzero(np.abs(outs - aim.at_samples) <= aim.tolerance_samples)
        if near.size:
            best = near[np.abs(outs[near] - aim.at_samples).argmin()]
            met.append(Held(int(sources[best]), int(outs[best]), number))
    return met


def _plan(chart: Chart, brief: Brief, held: tuple[Held, ...], end: Held | None, give: float) -> Plan:
    target, last = brief.target_samples, _played_to(chart, brief, held, end)
    source, out = bent(chart.beats, held, give) if len(held) > 1 else (np.array([held[0].source_samples]), np.array([0]))
    sounds_to = int(out[-1]) + last - int(source[-1])
    pins = tuple(Pin(int(s), int(o)) for s, o in zip([*source, last], [*out, sounds_to], strict=True))
    passage = Passage(pins)
    fade = _fade(chart, brief, last, end)
    before = (Rest(0, int(out[0]), Fade(0), Fade(0)),) if out[0] > 0 else ()
    rests = (*before, Rest(sounds_to, target, fade, Fade(0))) if sounds_to < target else before
    aims = on_the_way(brief.aims)
    bendable = [aim for aim in aims if aim.kind != "silence"]
    landed = _as_it_falls(chart, bendable, passage) if brief.held_bars else [h for h in held if h.moment >= 0]
    met = tuple(Met(aims.index(bendable[h.moment]), h.source_samples, 0) for h in landed)
    score = _score(passage, brief, [aim.weight for k, aim in enumerate(bendable) if k not in {h.moment for h in landed}])
    route = Route((), score, int(source[-1]) - chart.music_start_samples, met)
    ends_on = any(aim.kind == "last_hit" for aim in brief.aims)
    landing = Landing("fade") if end is None else Landing("last_hit" if ends_on else "ring_out", _at(passage, chart))
    opening: OpeningKind = "own" if held[0].source_samples == chart.music_start_samples else "bar"
    return Plan(
        method=brief.method,
        rate=chart.rate,
        target_samples=target,
        passages=(passage,),
        seams=(),
        score=score,
        rests=rests,
        hits=hits_met(chart, brief.aims, (passage,), rests, route),
        opening=Opening(opening),
        landing=landing,
        fade_in=opening_fade(chart, opening),
        fade_out=Fade(0) if sounds_to < target else fade,
    )


def _at(passage: Passage, chart: Chart) -> int:
    return round(float(passage.time_map().out_at(np.array([chart.last_hit_samples]))[0]))


def _fade(chart: Chart, brief: Brief, last: int, end: Held | None) -> Fade:
    if end is None:
        return Fade(after_samples(chart, brief), "cosine")
    early = max(0, chart.ring_out_end_samples - last)
    return Fade(fade_samples(chart, early), "cosine" if early > Tail.of(chart, brief).unheard_samples else "linear")


def _score(passage: Passage, brief: Brief, missed: list[str]) -> float:
    """What the bending costs the listener, as the search counts changes of speed."""
    source, out = (np.array([getattr(p, name) for p in passage.pins]) for name in ("source_samples", "out_samples"))
    lasts = np.diff(out)
    change_pct = 100 * (np.diff(source) / lasts - 1)
    changed = float(lasts[np.abs(change_pct) > 0].sum() / brief.target_samples)
    bending = float((lasts * np.square(change_pct)).sum() / brief.target_samples)
    return SPEED_COST * changed + STRETCH_COST_PER_PCT2 * bending + sum(MISSED_COST[weight] for weight in missed)


def _too_far(chart: Chart, brief: Brief, give: float) -> NoPlanError:
    """The refusal, with the shortest and the longest that bending can make of a track."""
    tail = Tail.of(chart, replace(brief, landing="ring_out"))
    own_speed = own_speed_from(chart, Ending.of(chart, brief, None))
    ring_out, played = chart.ring_out_end_samples - own_speed, own_speed - chart.music_start_samples
    shortest = int(np.ceil(played / (1 + give))) + ring_out - tail.early_samples
    longest = int(played / (1 - give)) + ring_out + tail.silence_samples
    low, high = (format_clock(n / chart.rate) for n in (shortest, longest))
    return NoPlanError(
        f"Bending all of this track by {_most_pct(brief):g} % makes {low} to {high} of it. "
        "Rearrange it, have it end in a fade, or ask for another length.",
        possible_samples=[shortest, longest],
        possible_s=[shortest / chart.rate, longest / chart.rate],
    )
