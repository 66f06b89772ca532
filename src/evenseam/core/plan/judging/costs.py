"""What a plan costs the listener, in figures that stand beside each other in a table."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from evenseam.core.chart.chart import Chart
from evenseam.core.plan.judging.apart import sections_heard
from evenseam.core.plan.model import Passage, Plan

_WHOLE_S = 0.05  # what is left out of an opening or an ending before it counts as kept no more
_UNHEARD_SPEED_PCT = 0.02  # milliseconds over a cue: nobody can tell, and no table should say so


@dataclass(frozen=True, slots=True)
class Costs:
    """`seams` by grade; the largest speed change and for how much of the fit there is any; hits kept, of how many.

    `sections`: the letters of those heard, in order. `repeated_pct`: how much of what is heard was heard before;
    `fade_samples`: how long the end is faded, 0 for an ending that is whole; `silence_samples`: after the music.
    """

    even: int
    faint: int
    plain: int
    short_bars: int
    speed_change_pct: float
    speed_changed_pct: float
    hits_kept: int
    hits: int
    keeps_opening: bool
    keeps_ending: bool
    sections: str
    repeated_pct: float
    fade_samples: int
    silence_samples: int


def costs_of(plan: Plan, chart: Chart) -> Costs:
    """What a plan of a track costs."""
    grades = [seam.grade for seam in plan.seams]
    whole = round(_WHOLE_S * plan.rate)
    ending = plan.passages[-1]
    silence = plan.target_samples - ending.out_out_samples
    return Costs(
        even=grades.count("even"),
        faint=grades.count("faint"),
        plain=grades.count("plain"),
        short_bars=sum(seam.short_bar for seam in plan.seams),
        speed_change_pct=round(plan.max_speed_change_pct(), 2),
        speed_changed_pct=round(_speed_changed_pct(plan), 1),
        hits_kept=sum(hit.is_kept for hit in plan.hits),
        hits=len(plan.hits),
        keeps_opening=abs(plan.passages[0].source_in_samples - chart.music_start_samples) <= whole,
        keeps_ending=ending.source_in_samples < chart.last_hit_samples < ending.source_out_samples,
        sections=sections_heard(plan, chart),
        repeated_pct=round(_repeated_pct(plan), 1),
        fade_samples=plan.fade_out.n_samples if plan.fade_out.shape == "cosine" else 0,
        silence_samples=silence,
    )


def _speed_changed_pct(plan: Plan) -> float:
    """Per cent of the output that is not at the track's own speed."""
    changed = sum(
        b.out_samples - a.out_samples
        for passage in plan.passages
        for a, b in pairwise(passage.pins)
        if abs((b.source_samples - a.source_samples) / (b.out_samples - a.out_samples) - 1) * 100 > _UNHEARD_SPEED_PCT
    )
    return 100 * changed / plan.target_samples


def _repeated_pct(plan: Plan) -> float:
    """Per cent of the music that was heard before in the same fit."""
    played = sum(p.source_out_samples - p.source_in_samples for p in plan.passages)
    return 100 * (1 - _covered(plan.passages) / played)


def _covered(passages: tuple[Passage, ...]) -> int:
    """Samples of the track that are heard at all."""
    spans = np.array(sorted((p.source_in_samples, p.source_out_samples) for p in passages))
    reached = np.maximum.accumulate(np.append(0, spans[:-1, 1]))
    return int(np.maximum(0, spans[:, 1] - np.maximum(spans[:, 0], reached)).sum())
