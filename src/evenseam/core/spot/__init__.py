"""Spotting: what a picture holds and what its music must meet, in frames from the picture's first."""

from evenseam.core.spot import edit
from evenseam.core.spot.align import Pair, aligned
from evenseam.core.spot.carry import Carried, Moved, Offer, carry, is_known_again
from evenseam.core.spot.sheet import HIT_KINDS, WEIGHTS, Hit, HitKind, Line, Sheet, Shot, Slot, Weight

__all__ = [
    "HIT_KINDS",
    "WEIGHTS",
    "Carried",
    "Hit",
    "HitKind",
    "Line",
    "Moved",
    "Offer",
    "Pair",
    "Sheet",
    "Shot",
    "Slot",
    "Weight",
    "aligned",
    "carry",
    "edit",
    "is_known_again",
]
