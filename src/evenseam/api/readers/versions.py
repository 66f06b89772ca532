"""Versions of a picture to what goes out."""

from evenseam.api.schemas.sheets import FrameSpan
from evenseam.api.schemas.versions import LikenessRead, LikeShot
from evenseam.core.spot import Pair
from evenseam.services.versions import Likeness


def read_likeness(found: Likeness) -> LikenessRead:
    """Shots of two versions side by side, in the order of the new one; those that are gone come last."""
    of_new = {p.new_index: p for p in found.pairs}
    gone = set(range(len(found.old_shots))) - {p.old_index for p in found.pairs}
    rows = [_like(found, of_new[j].old_index if j in of_new else None, j, of_new) for j in range(len(found.new_shots))]
    rows += [_like(found, i, None, of_new) for i in sorted(gone)]
    return LikenessRead(shots=rows, n_carried=found.n_carried, n_marks=found.n_marks)


def _like(found: Likeness, old: int | None, new: int | None, of_new: dict[int, Pair]) -> LikeShot:
    before = None if old is None else found.old_shots[old]
    after = None if new is None else found.new_shots[new]
    pair = None if new is None else of_new.get(new)
    shown = after or before
    return LikeShot(
        old_index=old,
        name=(shown.name or shown.reel) if shown else "",
        before=None if before is None else FrameSpan.model_validate(before),
        after=None if after is None else FrameSpan.model_validate(after),
        sure_pct=None if pair is None else round(100 * pair.sure),
    )
