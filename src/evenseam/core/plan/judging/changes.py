"""What would do: for hits that must be met and are not, or a length that cannot be had, the smallest change that would.

Each thing that was asked for is let go a little further at a time, by itself, until the musts are met; what is offered has
been planned, so that it can be had.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import Aim, Brief
from evenseam.core.plan.model import Plan
from evenseam.core.plan.tail import MARGIN_S

ChangeKind = Literal["give_pct", "max_seams", "hold_bars", "tolerance_samples", "opening", "landing"]
_GIVES_PCT = (1.5, 3.0, 5.0, 8.0, 12.0)
_TRIED_UNASKED_PCT = 6.0  # by the planner itself, where no give is asked for
_MORE_SEAMS = (1, 2, 4, 8)
_HOLDS = (4, 2, 1)

Planned = Callable[[Brief], Plan]


@dataclass(frozen=True, slots=True)
class Change:
    """One change of a brief that would have every must met: what is to be other, and the value that it then has.

    `tolerance_samples` is of the hits that are missed; an opening or a landing that was asked for is left to the planner.
    """

    kind: ChangeKind
    value: float | None
    brief: Brief


def misses_a_must(plan: Plan | None) -> bool:
    """Whether a plan is none, or misses a hit that must be met."""
    return plan is None or any(hit.weight == "must" and not hit.is_kept for hit in plan.hits)


def changes_for(brief: Brief, planned: Planned) -> tuple[Change, ...]:
    """The smallest change of each kind that would have all musts met; none where they are met already."""
    first = _plan_or_none(brief, planned)
    if not misses_a_must(first):
        return ()
    found = (
        next((c for c in steps if not misses_a_must(_plan_or_none(c.brief, planned))), None) for steps in _kinds(brief, first)
    )
    return tuple(change for change in found if change is not None)


def _kinds(brief: Brief, plan: Plan | None) -> Iterator[Iterator[Change]]:
    """What may be changed, each from the smallest step on."""
    gives = (give for give in _GIVES_PCT if give > (_TRIED_UNASKED_PCT if brief.give_pct is None else brief.give_pct))
    yield (Change("give_pct", give, replace(brief, give_pct=give)) for give in gives)
    if brief.max_seams is not None:
        most = brief.max_seams
        yield (Change("max_seams", most + n, replace(brief, max_seams=most + n)) for n in _MORE_SEAMS)
    if brief.hold_bars is not None:
        holds = (hold for hold in _HOLDS if hold < (brief.hold_bars or 0))
        yield (Change("hold_bars", hold, replace(brief, hold_bars=hold)) for hold in holds)
    if brief.opening is not None:
        yield iter([Change("opening", None, replace(brief, opening=None))])
    if brief.landing == "fade":
        yield iter([Change("landing", None, replace(brief, landing="ring_out"))])
    if plan is not None:
        yield _tolerances(brief, plan)


def _tolerances(brief: Brief, plan: Plan) -> Iterator[Change]:
    """The musts that are missed, met wherever the music comes nearest to them now."""
    missed = {hit.asked_samples: hit for hit in plan.hits if hit.weight == "must" and not hit.is_kept}
    off = [abs(hit.landed_samples - hit.asked_samples) for hit in missed.values() if hit.landed_samples is not None]
    if len(off) < len(missed):
        return
    needed = max(off) + 2 * round(MARGIN_S * plan.rate)

    def allowed(aim: Aim) -> Aim:
        is_missed = aim.at_samples in missed and aim.weight == "must"
        return replace(aim, tolerance_samples=max(aim.tolerance_samples, needed)) if is_missed else aim

    yield Change("tolerance_samples", needed, replace(brief, aims=tuple(map(allowed, brief.aims))))


def _plan_or_none(brief: Brief, planned: Planned) -> Plan | None:
    try:
        return planned(brief)
    except NoPlanError:
        return None
