"""The edit, the joined music at the track's own speed, laid on the output: what holds it where, and what it is between."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate, pairwise
from math import ceil, floor

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.brief import Aim
from evenseam.core.plan.model import Passage, Pin
from evenseam.core.plan.search.labels import Route
from evenseam.core.plan.tail import LAST_HIT_LEAD_S

_ROUNDED = 0.998  # of give: pins are whole samples, which is a little more or less over a short passage
_ROOM_S = 0.001  # of a tolerance: a hit is held a little before its attack, and its speed may change there
Span = tuple[int, int]  # of the track


@dataclass(frozen=True, slots=True)
class Held:
    """A place of the edit that is held to a place of the output."""

    edit_samples: int
    out_samples: int


def held_places(chart: Chart, spans: Sequence[Span], route: Route, aims: Sequence[Aim], give_pct: float | None) -> list[Held]:
    """The start of the music, and each of the `aims` that the route meets; of a silence where it begins and where it ends.

    `spans`: with a gap in the place of every silence.
    """
    starts = [0, *accumulate(end - start for start, end in spans)]
    silences = sorted(anew.seam for anew in route.anew if anew.rest_samples)
    held = [Held(0, 0)]
    for met in route.met:
        span, aim = met.seams_before + sum(seam < met.seams_before for seam in silences), aims[met.number]
        at = starts[span] + met.source_samples - spans[span][0]
        if aim.until_samples is None:
            held.append(aimed(chart, held[-1], at, aim, give_pct))
        else:
            held += [aimed(chart, held[-1], starts[span - 1], aim, give_pct), Held(at, aim.until_samples)]
    return held


def aimed(chart: Chart, before: Held, edit_samples: int, aim: Aim, give_pct: float | None) -> Held:
    """A place that meets an aim: where its own speed brings it if that is near enough, else where it is asked for."""
    played, wanted = edit_samples - before.edit_samples, aim.at_samples - before.out_samples
    if played == 0:  # it is held for another aim, and cannot sound twice
        return before
    if abs(played - wanted) <= aim.tolerance_samples - round(_ROOM_S * chart.rate):
        return Held(edit_samples, before.out_samples + played)
    if give_pct is not None:
        # From the very start the speed changes only until just before the attack that is held.
        lead = 0 if before.edit_samples else min(played - 1, round(LAST_HIT_LEAD_S * chart.rate))
        most = _ROUNDED * give_pct / 100
        fastest, slowest = ((played - lead) / (1 + change) for change in (most, -most))
        wanted = min(max(wanted, ceil(fastest) + lead), floor(slowest) + lead)
    return Held(edit_samples, before.out_samples + wanted)


def lay_out(chart: Chart, spans: Sequence[Span], held: Sequence[Held], length: int, own_speed_from: int) -> tuple[Passage, ...]:
    """Lay spans end to end over `length` samples, at one speed from one held place to the next and to the ending.

    `own_speed_from`: the sample of the last span from which the track's own speed is kept.

    Positions are rounded once, from the exact sum, so that nothing drifts.
    """
    ending = spans[-1][1] - own_speed_from
    edit = sum(end - start for start, end in spans)
    lead = round(LAST_HIT_LEAD_S * chart.rate)
    knots = [held[0], *(Held(h.edit_samples - lead, h.out_samples - lead) for h in held[1:])]
    knots += [Held(edit - ending, length - ending), Held(edit, length)]
    bends = _bends(list(dict.fromkeys(knots)))
    passages, start = [], 0
    for source_in, source_out in spans:
        end = start + source_out - source_in
        inside = [k.edit_samples for k in bends if start < k.edit_samples < end]
        pins = tuple(Pin(source_in + at - start, _out_at(bends, at)) for at in (start, *inside, end))
        passages.append(Passage(pins))
        start = end
    return tuple(passages)


def _bends(knots: list[Held]) -> list[Held]:
    """The first and the last place, and those of the others where the speed changes."""
    kept = knots[:1]
    for here, after in pairwise(knots[1:]):
        before = kept[-1]
        rise = (here.edit_samples - before.edit_samples) * (after.out_samples - before.out_samples)
        if rise != (after.edit_samples - before.edit_samples) * (here.out_samples - before.out_samples):
            kept.append(here)
    return [*kept, knots[-1]]


def _out_at(knots: list[Held], edit_samples: int) -> int:
    """Where a place of the edit sounds on the output, rounded from the exact value."""
    after = next(k for k in range(1, len(knots)) if edit_samples <= knots[k].edit_samples)
    a, b = knots[after - 1], knots[after]
    share = Fraction(edit_samples - a.edit_samples, b.edit_samples - a.edit_samples)
    return round(a.out_samples + share * (b.out_samples - a.out_samples))
