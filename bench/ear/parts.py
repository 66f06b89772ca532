"""What the players play: bass, accompaniment, pads and leads over a bar's chords. Notes are (on, length, pitch, velocity)."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from ear.grooves import spread, step_weights, with_gaps

Note = tuple[float, float, int, float]  # beats from the start of the piece, beats, MIDI key, 0..1
SCALES = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "minor": (0, 2, 3, 5, 7, 8, 10),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "blues": (0, 3, 5, 6, 7, 10),
    "pentatonic": (0, 2, 4, 7, 9),
    "harmonic": (0, 2, 3, 5, 7, 8, 11),
}

_CROSSING = {"spread": spread, "gaps": with_gaps}  # figures that do not follow the weights of the beats


@dataclass(frozen=True)
class Chord:
    """A chord from `at` beats into its bar: root pitch class and intervals above it."""

    at: float
    root: int
    intervals: tuple[int, ...]


@dataclass(frozen=True)
class Bar:
    """One bar: where it starts (beats), how many beats, its inner groups and chords, and its place in its section."""

    start: float
    n_beats: int
    groups: tuple[int, ...]
    chords: tuple[Chord, ...]
    index: int
    of: int
    pushed: bool = False  # chords come half a beat early

    def chord_at(self, beat: float) -> Chord:
        """The chord that sounds at a beat of this bar."""
        return [c for c in self.chords if c.at <= beat + 1e-6][-1]


@dataclass
class Style:
    """What holds for a whole piece."""

    sub: int  # steps a beat
    scale: tuple[int, ...]
    key: int
    rng: np.random.Generator
    memo: dict = field(default_factory=dict)  # patterns once chosen for (part, section)

    def once(self, key: tuple, make: Callable[[], object]) -> object:
        """The same choice every time the same part of the same section asks."""
        if key not in self.memo:
            self.memo[key] = make()
        return self.memo[key]


def near(pitch_class: int, centre: int) -> int:
    """The key of a pitch class nearest to `centre`."""
    return centre + (pitch_class - centre + 6) % 12 - 6


def _spans(bar: Bar, push: float) -> list[tuple[float, float, Chord]]:
    ends = [c.at for c in bar.chords[1:]] + [bar.n_beats]
    return [
        (c.at - (push if bar.start or c.at else 0), e - (push if e < bar.n_beats or push else 0), c)
        for c, e in zip(bar.chords, ends, strict=True)
    ]


def bass_kinds(sub: int) -> list[str]:
    """Bass styles that sit well on so many steps a beat."""
    shared = [
        "root",
        "root",
        "fifths",
        "fifths",
        "walk",
        "beats",
        "drawn",
        "drawn",
        "riff",
        "riff",
        "pedal",
        "spread",
        "spread",
        "gaps",
        "gaps",
        "gaps",
    ]
    shared += ["leading", "leading", "leading", "leading"]
    return shared + (
        ["eighths", "eighths", "octaves", "dotted", "bossa", "sixteenths"]
        if sub != 3
        else ["boogie", "boogie", "walk", "walk", "shuffled"]
    )


def bass(kind: str, bar: Bar, style: Style, section: str) -> list[Note]:
    """One bar of bass."""
    rng, half = style.rng, 0.5 if style.sub != 3 else 2 / 3
    centre, notes = 38, []
    push = 0.5 if bar.pushed else 0.0
    if kind in ("root", "pedal"):
        for a, b, c in _spans(bar, push):
            root = near(style.key if kind == "pedal" else c.root, centre)
            notes.append((a, (b - a) * (1.0 if rng.random() < 0.8 else 0.6), root, 0.85))
    elif kind == "fifths":
        at = 0
        for g, size in enumerate(
            bar.groups if len(bar.groups) > 1 or bar.n_beats > 4 else (2,) * (bar.n_beats // 2) + (1,) * (bar.n_beats % 2)
        ):
            c = bar.chord_at(at)
            notes.append(
                (at, size * 0.6, near(c.root, centre) + (0 if g % 2 == 0 or c.at == at else -5), 0.9 if at == 0 else 0.75)
            )
            at += size
    elif kind in ("walk", "beats"):
        for beat in range(bar.n_beats):
            c = bar.chord_at(beat)
            root = near(c.root, centre)
            step = (
                0
                if kind == "beats" or beat in [x.at for x in bar.chords]
                else int(rng.choice([*c.intervals, c.intervals[1], 7, -5, 2, 9]))
            )
            notes.append((beat, 0.9, root + step, 0.8))
            if kind == "walk" and rng.random() < 0.1:
                notes.append((beat + half, 0.3, root + step, 0.55))
    elif kind in ("eighths", "octaves", "dotted", "sixteenths", "shuffled"):
        per = {
            "eighths": [0, 0.5],
            "octaves": [0, 0.5],
            "dotted": [0, 0.75],
            "sixteenths": [0, 0.5, 0.75],
            "shuffled": [0, 2 / 3],
        }[kind]
        for beat in range(bar.n_beats):
            c = bar.chord_at(beat)
            for k, at in enumerate(per):
                notes.append(
                    (beat + at, 0.4, near(c.root, centre) + (12 if kind == "octaves" and k else 0), 0.8 - 0.15 * (k > 0))
                )
    elif kind == "boogie":
        line = style.once(
            ("boogie", section),
            lambda: [
                (0, 4, 7, 9, 10, 9, 7, 4),
                (0, 0, 7, 7, 9, 9, 7, 7),
                (0, 12, 10, 12, 7, 12, 10, 7),
                (0, 0, 4, 4, 7, 7, 9, 9),
            ][rng.integers(4)],
        )
        for beat in range(bar.n_beats):
            c = bar.chord_at(beat)
            notes.append((beat, 0.5, near(c.root, centre) + line[2 * beat % 8], 0.85))
            notes.append((beat + 2 / 3, 0.3, near(c.root, centre) + line[(2 * beat + 1) % 8], 0.65))
    elif kind == "bossa":
        for at, fifth, v in [(0, 0, 0.9), (1.5, 7, 0.6), (2, 7, 0.85), (3.5, 0, 0.6)]:
            if at < bar.n_beats:
                notes.append((at, 0.5 if at % 1 else 1.3, near(bar.chord_at(at).root, centre) - (5 if fifth else 0), v))
    elif kind == "leading":
        notes = _leading_bass(bar, style, section, centre)
    else:  # drawn, riff: a figure of its own, the same in every bar of the section
        weight = step_weights(bar.n_beats, list(bar.groups), style.sub)
        on = style.once((kind, section, bar.n_beats), lambda: rng.random(weight.size) < weight * rng.uniform(0.4, 1.0))
        on = np.array(on)
        if kind in _CROSSING:
            make = _CROSSING[kind]
            on = np.array(style.once((kind, "on", section, bar.n_beats), lambda: make(weight.size, style.sub, rng)))
        on[0] = style.once((kind, section, "one"), lambda: rng.random() < 0.85)
        tones = style.once(
            (kind, section, "tones", bar.n_beats), lambda: rng.choice([0, 0, 0, 7, 12, -5, 10, 3, 5], weight.size)
        )
        steps = np.flatnonzero(on)
        for k, s in enumerate(steps):
            until = steps[k + 1] if k + 1 < steps.size else weight.size
            tone = 0 if s == 0 or (kind == "drawn" and rng.random() < 0.7) else int(np.array(tones)[s])
            notes.append(
                (
                    s / style.sub,
                    (until - s) / style.sub * 0.8,
                    near(bar.chord_at(s / style.sub).root, centre) + tone,
                    0.6 + 0.3 * weight[s],
                )
            )
    return [(bar.start + a, d, p, v) for a, d, p, v in notes]


def _leading_bass(bar: Bar, style: Style, section: str, centre: int) -> list[Note]:
    """A figure from the root, off the beat as often as on it, whose last beat leads back to the root by neighbour notes."""
    rng, sub = style.rng, style.sub
    n = bar.n_beats * sub
    off = np.arange(n) % sub != 0
    on = np.array(
        style.once(
            ("leading", section, n), lambda: rng.random(n) < np.where(off, rng.uniform(0.05, 0.35), rng.uniform(0.2, 0.8))
        )
    )
    on[0], last = True, (bar.n_beats - 1) * sub
    back = style.once(
        ("leading", section, "back"),
        lambda: (
            [(7, 9), (10, 11), (-2, -1), (2, 1), (6, 7), (-5, -1), (12, 10), (5, 7)][rng.integers(8)],
            int(rng.integers(1, sub)) if rng.random() < 0.7 else 0,
        ),
    )
    (near_by, nearer), second = back  # type: ignore[misc]
    on[last:] = False
    on[last] = True
    if second:
        on[last + second] = True
    tones = np.array(style.once(("leading", section, "tones", n), lambda: rng.choice([0, 0, 12, 12, 3, 7, 10, 4], n)))
    tones[0], tones[last], tones[last + second] = 0, near_by, nearer if second else near_by
    steps = np.flatnonzero(on)
    ends = np.append(steps[1:], n)
    root = near(bar.chords[0].root, centre - 3)
    return [(s / sub, (e - s) / sub * 0.85, root + int(tones[s]), 0.85) for s, e in zip(steps, ends, strict=True)]


COMP_KINDS = [
    "pad",
    "pad",
    "long",
    "chops",
    "backbeat",
    "offbeat",
    "eighths",
    "sixteenths",
    "answers",
    "drawn",
    "drawn",
    "drawn",
    "arpeggio",
    "arpeggio",
    "alberti",
    "oompah",
    "charleston",
    "strum",
    "stabs",
    "spread",
    "spread",
    "spread",
    "gaps",
    "gaps",
    "gaps",
]


def voicing(chord: Chord, centre: int, n: int = 4) -> list[int]:
    """The chord close around `centre`."""
    return sorted({near((chord.root + i) % 12, centre) for i in chord.intervals[:n]})


def comp(kind: str, bar: Bar, style: Style, section: str, centre: int) -> list[Note]:
    """One bar of accompaniment."""
    rng, sub = style.rng, style.sub
    half = 0.5 if sub != 3 else 2 / 3
    out: list[Note] = []

    def chord(at: float, length: float, velocity: float, pick: slice = slice(None)) -> None:
        spread = 0.012 if kind == "strum" else 0.0
        for k, p in enumerate(voicing(bar.chord_at(max(at, 0)), centre)[pick]):
            out.append((bar.start + at + k * spread, length, p, velocity))

    if kind in ("pad", "long"):
        for a, b, _ in _spans(bar, 0.5 if bar.pushed else 0.0):
            chord(a, b - a if kind == "pad" else (b - a) * 0.5, 0.6)
    elif kind == "chops":
        for beat in range(bar.n_beats):
            chord(beat, 0.35, 0.8 if beat == 0 else 0.65)
    elif kind == "backbeat":
        for beat in range(1, bar.n_beats, 2 if bar.n_beats != 3 else 1):
            chord(beat, 0.3, 0.75)
    elif kind == "offbeat":
        for beat in range(bar.n_beats):
            chord(beat + half, 0.25, 0.7)
    elif kind == "eighths":
        for beat in range(bar.n_beats):
            chord(beat, 0.4, 0.7)
            chord(beat + half, 0.3, 0.55)
    elif kind == "sixteenths":
        left_out = style.once((kind, section), lambda: rng.random(bar.n_beats * sub) < rng.uniform(0.0, 0.4))
        for s in range(bar.n_beats * sub):
            if not np.array(left_out)[s]:
                chord(s / sub, 0.2, 0.75 if s % sub == 0 else 0.6)
    elif kind == "answers":  # silent on beat one, in the gaps of the bar after it
        gaps = style.once((kind, section), lambda: 1 + np.flatnonzero(rng.random((bar.n_beats - 1) * 2) < 0.6) / 2)
        for at in np.array(gaps):
            chord(float(int(at) + (half if at % 1 else 0)), 0.35, 0.75)
    elif kind == "oompah":
        for beat in range(bar.n_beats):
            weak = beat % 2 if bar.n_beats != 3 else beat > 0
            chord(beat, 0.4, 0.65, slice(None) if weak else slice(0, 1))
    elif kind == "charleston":
        chord(0, 1.0, 0.75)
        chord(1 + half, 0.4, 0.7)
    elif kind == "stabs":
        at = style.once((kind, section), lambda: rng.integers(0, bar.n_beats * sub) / sub)
        chord(min(float(at), bar.n_beats - 0.5), 0.4, 0.85)
    elif kind in ("arpeggio", "alberti"):
        shape = style.once(
            (kind, section), lambda: [(0, 1, 2, 3), (0, 2, 1, 2), (3, 2, 1, 0), (0, 1, 2, 1), (0, 2, 3, 2)][rng.integers(5)]
        )
        step = style.once((kind, section, "step"), lambda: 1 / 3 if sub == 3 else float(rng.choice([0.5, 0.5, 0.25, 1.0])))
        for k in range(round(bar.n_beats / step)):
            tones = voicing(bar.chord_at(k * step), centre)
            out.append((bar.start + k * step, step * 0.95, tones[shape[k % 4] % len(tones)], 0.72 if k % 4 == 0 else 0.58))
    else:
        weight = step_weights(bar.n_beats, list(bar.groups), sub)
        crossing = _CROSSING.get(kind)
        on = np.array(
            style.once(
                (kind, section, bar.n_beats),
                lambda: (
                    crossing(weight.size, sub, rng) if crossing else rng.random(weight.size) < weight * rng.uniform(0.3, 0.9)
                ),
            )
        )
        for s in np.flatnonzero(on):
            chord(s / sub, 0.4, 0.5 + 0.3 * weight[s])
    return out


def lead(bars: list[Bar], style: Style, centre: int, density: float) -> list[Note]:
    """A melody over a phrase of bars: a motif of one or two bars, repeated, moved, answered; some start with a pick-up."""
    rng, sub = style.rng, style.sub
    span = 2 if len(bars) > 1 and rng.random() < 0.6 else 1
    n_steps = sum(b.n_beats for b in bars[:span]) * sub
    weights = np.concatenate([step_weights(b.n_beats, list(b.groups), sub) for b in bars[:span]])
    motif = np.flatnonzero(rng.random(n_steps) < np.clip(weights * density, 0, 0.95))
    moves = rng.choice([-2, -1, -1, 0, 1, 1, 2, 3, -3], max(1, motif.size))
    pitch_at, notes = int(rng.integers(-3, 4)), []
    ladder = [12 * o + s + style.key for o in range(11) for s in style.scale]
    home = int(np.argmin(np.abs(np.array(ladder) - centre)))
    for first in range(0, len(bars), span):
        part = bars[first : first + span]
        if rng.random() < 0.15:
            continue  # a rest
        if rng.random() < 0.2:
            moves = rng.permutation(moves)
        length = sum(b.n_beats for b in part) * sub
        steps = motif[motif < length]
        at_rung = home + pitch_at
        for k, s in enumerate(steps):
            until = steps[k + 1] if k + 1 < steps.size else length
            at_rung = int(np.clip(at_rung + moves[k], home - 6, home + 8))
            pitch = ladder[at_rung]
            bar, at = _bar_at(part, s / sub)
            if weights[s] >= 0.7 and rng.random() < 0.6:
                pitch = near((bar.chord_at(at).root + int(rng.choice(bar.chord_at(at).intervals[:3]))) % 12, pitch)
            notes.append((part[0].start + s / sub, (until - s) / sub * rng.uniform(0.5, 1.0), pitch, 0.65 + 0.25 * weights[s]))
        if rng.random() < 0.25 and part[0].start > 0:  # a pick-up into this motif
            for k in range(1, int(rng.integers(2, 4))):
                notes.append((part[0].start - k * (0.5 if sub != 3 else 1 / 3), 0.4, ladder[max(0, home - k)], 0.6))
    return notes


def _bar_at(bars: list[Bar], beat: float) -> tuple[Bar, float]:
    for bar in bars:
        if beat < bar.n_beats:
            return bar, beat
        beat -= bar.n_beats
    return bars[-1], bars[-1].n_beats - 0.5
