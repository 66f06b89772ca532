"""Alternates: other answers to the same brief, each different from the others."""

from collections.abc import Iterable
from typing import Protocol, TypeVar


class Answer(Protocol):
    """One way of meeting a brief: its seams, its cost, and the samples of music it plays."""

    @property
    def seams(self) -> tuple[tuple[int, int], ...]:
        """Beats left and entered."""
        ...

    @property
    def cost(self) -> float:
        """Lower is better."""
        ...

    @property
    def played_samples(self) -> int:
        """Before any give."""
        ...


A = TypeVar("A", bound=Answer)


def different(answers: Iterable[A], count: int) -> list[A]:
    """Of every set of seams the cheapest answer, the cheapest of those first, at most `count`. Ties go to the shorter one."""
    best: dict[tuple[tuple[int, int], ...], A] = {}
    for answer in answers:
        if answer.seams not in best or answer.cost < best[answer.seams].cost:
            best[answer.seams] = answer
    return sorted(best.values(), key=lambda a: (a.cost, a.played_samples))[:count]
