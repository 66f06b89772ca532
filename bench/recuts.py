"""How often shots without reels are known again by order and length, and whether 'sure' means it: lists cut anew at random.

    .venv/bin/python bench/recuts.py

Kinds of lists: any lengths, lengths as films have them (log-normal), whole seconds (many shots are as long as others).
"""

import random
from itertools import pairwise

from evenseam.core.spot import Shot
from evenseam.core.spot.align import aligned

LISTS = 600
BANDS = (0.0, 0.5, 0.8, 0.95, 1.0)
KINDS = ("any", "film", "seconds")


def laid_out(lengths: list[int]) -> tuple[Shot, ...]:
    """Shots of these lengths, one after the other, without reels."""
    shots, at = [], 0
    for length in lengths:
        shots.append(Shot(at, at + length))
        at += length
    return tuple(shots)


def lengths_of(kind: str, n: int, chance: random.Random) -> list[int]:
    """Lengths in frames at 25 a second."""
    if kind == "any":
        return [chance.randint(12, 150) for _ in range(n)]
    if kind == "film":
        return [round(chance.lognormvariate(4, 0.6)) + 6 for _ in range(n)]
    return [25 * chance.randint(1, 5) for _ in range(n)]


def recut(lengths: list[int], chance: random.Random) -> tuple[list[int], set[tuple[int, int]]]:
    """Some shots gone, trimmed, new, one or two moved; and which is which."""
    order = list(enumerate(lengths))
    for _ in range(chance.choice((0, 0, 1, 2))):
        order.insert(chance.randrange(len(order)), order.pop(chance.randrange(len(order))))
    made: list[int] = []
    truth = set()
    for index, length in order:
        fate = chance.random()
        if fate < 0.07:
            continue
        if fate > 0.95:
            made.append(chance.randint(12, 150))
        truth.add((index, len(made)))
        made.append(max(3, length + chance.randint(-15, 15)) if fate < 0.2 else length)
    return made, truth


def main() -> None:
    """Print shares of pairs found, and of pairs right by how sure they are said to be."""
    for kind in KINDS:
        found, right, n_true = [], [], 0
        for seed in range(LISTS):
            chance = random.Random(seed)
            lengths = lengths_of(kind, chance.choice((8, 12, 30, 80)), chance)
            made, truth = recut(lengths, chance)
            if not made:
                continue
            pairs = aligned(laid_out(lengths), laid_out(made))
            found += [p.sure for p in pairs]
            right += [(p.old_index, p.new_index) in truth for p in pairs]
            n_true += len(truth)
        print(
            f"{kind:8} {sum(right) / n_true:.3f} of the true pairs found, {sum(right) / len(right):.3f} of the found ones true"
        )
        for low, high in pairwise(BANDS):
            band = [r for s, r in zip(found, right, strict=True) if low < s <= high]
            if band:
                print(f"         sure {low:.2f} to {high:.2f}: {len(band):6} pairs, {sum(band) / len(band):.3f} true")


if __name__ == "__main__":
    main()
