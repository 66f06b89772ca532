"""The methods of fitting, one file each. A method makes plans from what a track offers; nothing else knows how."""

from typing import Protocol

from evenseam.core.plan.brief import Brief, MethodName
from evenseam.core.plan.methods.bend import Bend
from evenseam.core.plan.methods.blend import Blend
from evenseam.core.plan.methods.loop import Loop
from evenseam.core.plan.methods.rearrange import Rearrange
from evenseam.core.plan.methods.stretch import Stretch
from evenseam.core.plan.methods.trim import Trim
from evenseam.core.plan.model import Plan
from evenseam.core.plan.offer import Offer


class Method(Protocol):
    """One way of fitting a track."""

    def plans(self, offer: Offer, brief: Brief, count: int) -> tuple[Plan, ...]:
        """Up to `count` different plans for a brief, best first. Raises: NoPlanError with what would be possible instead."""
        ...


METHODS: dict[MethodName, Method] = {
    "blend": Blend(),
    "rearrange": Rearrange(),
    "loop": Loop(),
    "stretch": Stretch(),
    "bend": Bend(),
    "trim": Trim(),
}
