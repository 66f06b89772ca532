"""Sound without a beat: washes, drones, chords and runs at free times, a hand that plays as it likes."""

import numpy as np

from ear.parts import SCALES, Note, near
from ear.piece import PADS, Part, Piece

HANDS = (0, 0, 4, 8, 11, 12, 24, 25, 46, 104, 107, 14, 15)
BREATH = (40, 42, 48, 56, 60, 68, 71, 73, 75, 77, 79, 52, 53)
ODD = (97, 98, 99, 100, 101, 102, 103, 122, 125, 96)


def make_beatless(seed: int) -> Piece:
    """The piece of a seed; its notes are in seconds, and it has no beats."""
    rng = np.random.default_rng(seed)
    key, end = int(rng.integers(12)), float(rng.uniform(45, 90))
    scale = SCALES[str(rng.choice(["major", "minor", "dorian", "pentatonic"]))]

    def pitch(centre: int) -> int:
        return near((key + int(rng.choice(scale))) % 12, centre)

    kinds = [_wash, _wash, _drone, _chords, _phrases, _scatter]
    parts = []
    for k in range(int(rng.integers(1, 4))):
        make = kinds[rng.integers(len(kinds))] if k else kinds[rng.integers(len(kinds) - 1)]
        notes, programs = make(rng, pitch, end)
        part = Part(int(rng.choice(programs)), notes, volume=int(rng.integers(60, 118)))
        if rng.random() < 0.6:
            at = np.sort(rng.uniform(0, end, 14))
            beats = np.arange(0, end, 0.5)
            level = np.interp(beats, at, rng.uniform(0.25, 1.0, at.size))
            part.swells = [(float(b), float(v)) for b, v in zip(beats, level, strict=True)]
        parts.append(part)
    return Piece(parts, np.arange(int(end) + 10, dtype=float), np.zeros(0, bool), label="beatless")


def _wash(rng: np.random.Generator, pitch, end: float) -> tuple[list[Note], tuple[int, ...]]:  # type: ignore[no-untyped-def]
    """Held notes, one or a few at a time, at gaps that no two are alike of."""
    gap, spread, notes, at = float(rng.choice([0.5, 2.0, 4.0, 6.0])), float(rng.uniform(0.4, 0.7)), [], float(rng.uniform(0, 2))
    while at < end:
        for _ in range(1 if gap < 1 else int(rng.integers(1, 5))):
            notes.append((at, gap * rng.uniform(0.8, 2.0), pitch(int(rng.integers(45, 78))), float(rng.uniform(0.4, 0.8))))
        at += gap * float(rng.lognormal(0, spread))
    return notes, (*PADS, *ODD, 0, 4, 11, 46, 73, 75, 77)


def _drone(rng: np.random.Generator, pitch, end: float) -> tuple[list[Note], tuple[int, ...]]:  # type: ignore[no-untyped-def]
    """A few notes for as long as it lasts, one of them now and then changed."""
    notes = []
    for centre in rng.integers(36, 70, int(rng.integers(2, 5))):
        at = float(rng.uniform(0, 4))
        while at < end:
            length = float(rng.uniform(6, 25))
            notes.append((at, length * 1.1, pitch(int(centre)), float(rng.uniform(0.4, 0.7))))
            at += length
    return notes, tuple(PADS)


def _chords(rng: np.random.Generator, pitch, end: float) -> tuple[list[Note], tuple[int, ...]]:  # type: ignore[no-untyped-def]
    """Chords, together or rolled, each held as long as it likes."""
    notes, at, roll = [], float(rng.uniform(0, 2)), float(rng.choice([0.0, 0.03, 0.12]))
    while at < end:
        length, centre = float(rng.lognormal(np.log(2.6), 0.5)), int(rng.integers(48, 68))
        tones = sorted({pitch(centre + k) for k in (-12, 0, 4, 7)})
        notes += [
            (at + k * roll * float(rng.uniform(0.5, 1.5)), length * 1.15, t, float(rng.uniform(0.4, 0.8)))
            for k, t in enumerate(tones)
        ]
        at += length
    return notes, (*PADS, *HANDS, 48, 49, 52)


def _phrases(rng: np.random.Generator, pitch, end: float) -> tuple[list[Note], tuple[int, ...]]:  # type: ignore[no-untyped-def]
    """Runs of notes that hurry and linger, with a rest after each."""
    notes, at = [], float(rng.uniform(0, 2))
    while at < end:
        pace, n = float(rng.lognormal(np.log(0.45), 0.5)), int(rng.integers(2, 10))
        centre = int(rng.integers(55, 82))
        for k in range(n):
            step = pace * float(rng.lognormal(0, 0.4)) * (1 + 0.8 * (k > n - 3))
            notes.append((at, step * 1.2, pitch(centre + int(rng.integers(-5, 6))), float(rng.uniform(0.4, 0.85))))
            at += step
        at += float(rng.lognormal(np.log(1.6), 0.6))
    return notes, (*HANDS, *BREATH)


def _scatter(rng: np.random.Generator, pitch, end: float) -> tuple[list[Note], tuple[int, ...]]:  # type: ignore[no-untyped-def]
    """Single sounds here and there, as of bells, drops and strikes (a Poisson process)."""
    at = np.cumsum(rng.exponential(float(rng.choice([0.4, 1.0, 2.5])), 400))
    notes = [
        (float(a), float(rng.uniform(0.2, 3)), pitch(int(rng.integers(60, 92))), float(rng.uniform(0.3, 0.8)))
        for a in at[at < end]
    ]
    return notes, (*HANDS, *ODD, 9, 10, 112, 115, 117)
