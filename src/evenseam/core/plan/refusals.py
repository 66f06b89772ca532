"""What is said when no plan meets a brief: why, and what would be possible instead."""

from fractions import Fraction

from evenseam.core.errors import NoPlanError
from evenseam.core.plan.brief import FURTHER_GIVES_PCT, Brief
from evenseam.core.timebase import format_clock


def refusal(brief: Brief, possible_samples: list[int], rate: int) -> NoPlanError:
    """The refusal of a length, with the nearest shorter and the nearest longer one among those that can be had."""
    asked = format_clock(brief.target_samples / rate)
    shorter = max((p for p in possible_samples if p < brief.target_samples), default=None)
    longer = min((p for p in possible_samples if p > brief.target_samples), default=None)
    nearest = [p for p in (shorter, longer) if p is not None]
    params = {"possible_samples": nearest, "possible_s": [p / rate for p in nearest]}
    words = " and ".join([format_clock(p / rate) if p == shorter else _rounded_up(p, rate) for p in nearest])
    hint = f" The nearest that can be had: {words}." if words else ""
    if brief.max_seams is not None:
        return NoPlanError(
            f"{asked} cannot be reached {_with_seams(brief.max_seams)}.{hint} Allow more seams, or another length.", **params
        )
    if longer is not None and shorter is None:
        return NoPlanError(
            f"{asked} is too short to rearrange: with its own opening and ending this track takes at least "
            f"{_rounded_up(longer, rate)}. Ask for that or more, or choose another track.",
            **params,
        )
    give_pct = brief.give_pct if brief.give_pct is not None else FURTHER_GIVES_PCT[-1]
    return NoPlanError(
        f"{asked} cannot be reached with a give of {give_pct:g} %.{hint} Allow more give, or another length.", **params
    )


def _with_seams(most: int) -> str:
    if most == 0:
        return "without a seam"
    return f"with at most {most} seam{'s' if most > 1 else ''}"


def _rounded_up(samples: int, rate: int) -> str:
    """To the next millisecond, so that the length that is named can really be had."""
    return format_clock(Fraction(-(-samples * 1000 // rate), 1000))
