"""Music as it is scored for picture: strings, horns, voices and pads that hold and overlap, few drums or none.

Its pulse is told by where the harmony changes, by bows and breaths, the bass, and slow or restless lines; loudness swells.
"""

import numpy as np

from ear.grooves import step_weights
from ear.parts import SCALES, Bar, Note, Style, lead, near, voicing
from ear.piece import Part, Piece, form, tempo_map

HELD = (48, 48, 48, 49, 49, 50, 51, 52, 53, 60, 61, 57, 58, 89, 90, 91, 92, 94, 95, 19, 20, 16, 88, 54, 21, 64, 71)
PLUCKED = (45, 45, 46, 0, 0, 1, 4, 8, 9, 10, 11, 12, 13, 24, 48, 68, 73, 99, 6, 104)
SINGING = (40, 41, 42, 42, 48, 60, 68, 69, 70, 71, 73, 73, 56, 0, 52, 53, 75, 79, 11, 24)
LOW = (43, 43, 42, 42, 48, 32, 58, 39, 19, 89, 70, 0)
DEEP_DRUMS = (47, 47, 116, 117, 118)
VOICES = (52, 53, 54)


def make_scored(seed: int) -> Piece:
    """The piece of a seed; the same seed gives the same piece."""
    rng = np.random.default_rng([seed, 7])
    compound = rng.random() < 0.12
    n_beats = (
        int(rng.choice([2, 4], p=[0.7, 0.3])) if compound else int(rng.choice([4, 3, 2, 5, 6], p=[0.66, 0.2, 0.06, 0.04, 0.04]))
    )
    sub = 3 if compound or rng.random() < 0.12 else 4
    bpm = float(np.clip(rng.lognormal(np.log(58 if compound else 80), 0.3), 40, 155))
    mode = str(rng.choice(["major", "minor"], p=[0.4, 0.6]))
    style = Style(
        sub,
        SCALES["major" if mode == "major" else str(rng.choice(["minor", "dorian", "harmonic"]))],
        int(rng.integers(12)),
        rng,
    )
    bars, sections = form(rng, style, n_beats, mode, max(6, int(rng.uniform(50, 110) * bpm / 60 / n_beats)))
    total = round(bars[-1].start + bars[-1].n_beats)
    piece = Piece([], tempo_map(rng, bpm, total + 8, bars, swaying=0.3), np.zeros(total, bool), bars, compound=compound)
    piece.sections = sections
    for bar in bars:
        piece.downbeat[round(bar.start)] = True
    drums = _orchestra(piece, rng, style)
    piece.label = f"{n_beats}/{sub}/scored{'/drums' if drums else ''}"
    if rng.random() < 0.7:
        _last_chord(piece, rng, style, total)
    return piece


def _orchestra(piece: Piece, rng: np.random.Generator, style: Style) -> bool:
    """Who plays, and when; returns whether drums do."""
    layers = [(_held, HELD, 1.0), (_held, HELD, 0.35), (_low, LOW, 0.8), (_line, HELD, 0.45), (_figure, PLUCKED, 0.45),
              (_figure, PLUCKED, 0.12), (_tune, SINGING, 0.65), (_tune, SINGING, 0.15)]  # fmt: skip
    if rng.random() < 0.12:  # one player alone, or two
        layers = [(_figure, PLUCKED, 1.0), (_tune, SINGING, 0.7)]
    for make, programs, share in layers:
        if rng.random() >= share:
            continue
        sung = make is _tune and rng.random() < 0.25
        notes = _in_sections(piece, rng, make(piece.bars, rng, style), 0.8 if piece.parts else 0.92)
        part = _player(rng, int(rng.choice(VOICES if sung else programs)), notes, is_lead=make is _tune, is_voice=sung)
        part.swells = _swells(piece, rng)
        piece.parts.append(part)
    return _drums(piece, rng)


def _player(rng: np.random.Generator, program: int, notes: list[Note], **more: bool) -> Part:
    slow = program in (*HELD, *LOW)
    late_s = float(rng.uniform(-0.05, 0.02)) if slow and rng.random() < 0.6 else float(rng.normal(0, 0.006))
    return Part(
        program,
        notes,
        late_s,
        float(rng.choice([0.0, 0.004, 0.012, 0.022])),
        int(rng.integers(60, 118)),
        int(rng.integers(20, 108)),
        **more,
    )


def _in_sections(piece: Piece, rng: np.random.Generator, notes: list[Note], share: float) -> list[Note]:
    """The notes of those sections in which this player plays; alone at the beginning, or from later on."""
    on = {letter: rng.random() < share for letter in "IABC"}
    if not any(on.values()):
        on["A"] = True
    spans = []
    for letter, first, size in piece.sections:
        if on[letter] if rng.random() < 0.9 else not on[letter]:
            last = piece.bars[first + size - 1]
            spans.append((piece.bars[first].start, last.start + last.n_beats))
    return [n for n in notes if any(a - 0.6 <= n[0] < b - 0.3 for a, b in spans)] or notes


def _swells(piece: Piece, rng: np.random.Generator) -> list[tuple[float, float]]:
    """Loudness along the piece as (beat, 0 to 1): by section, with swells over phrases."""
    beats = np.arange(0, piece.downbeat.size + 4, 0.5)
    depth, phrase = (
        float(rng.choice([0.0, rng.uniform(0.1, 0.6)], p=[0.3, 0.7])),
        piece.bars[0].n_beats * int(rng.choice([1, 2, 4, 4, 8])),
    )
    level = np.interp(beats, np.linspace(0, beats[-1], 6), rng.uniform(0.45, 1.0, 6))
    shape = np.abs(np.sin(np.pi * (beats / phrase + rng.choice([0.0, 0.5]))))
    return [(float(b), float(v)) for b, v in zip(beats, np.clip(level * (1 - depth * (1 - shape)), 0.15, 1), strict=True)]


def _held(bars: list[Bar], rng: np.random.Generator, _style: Style) -> list[Note]:
    """Chords that are held into one another: common tones tied or bowed anew, at the chord, the bar, half of it or two bars."""
    centre, over, ties = int(rng.integers(48, 72)), float(rng.choice([0.0, 0.1, 0.3, 0.6])), float(rng.choice([0.0, 0.5, 1.0]))
    every, close = str(rng.choice(["chord", "chord", "bar", "half", "two"])), rng.random() < 0.6
    changes = _changes(bars, every)
    ends = [*[a for a, _ in changes[1:]], bars[-1].start + bars[-1].n_beats]
    notes: list[Note] = []
    sounding: dict[int, int] = {}
    for (at, bar), end in zip(changes, ends, strict=True):
        tones = voicing(bar.chord_at(at - bar.start), centre, 4)
        if not close:
            tones = [tones[0] - 12, *tones[1:], tones[0] + 12]
        kept = {}
        for tone in tones:
            if tone in sounding and rng.random() < ties and notes[sounding[tone]][1] < 12:
                a, length, p, v = notes[sounding[tone]]
                notes[sounding[tone]] = (a, length + end - at, p, v)
                kept[tone] = sounding[tone]
                continue
            kept[tone] = len(notes)
            notes.append(
                (
                    at + abs(float(rng.normal(0, 0.015))),
                    end - at + over * float(rng.uniform(0.3, 1)),
                    tone,
                    float(rng.uniform(0.45, 0.75)),
                )
            )
        sounding = kept
    return notes


def _changes(bars: list[Bar], every: str) -> list[tuple[float, Bar]]:
    """Where held notes are begun anew: (beat, bar)."""
    out: list[tuple[float, Bar]] = []
    chord = None
    for k, bar in enumerate(bars):
        places = {c.at for c in bar.chords} | ({0.0, bar.n_beats // 2} if every == "half" and bar.n_beats % 2 == 0 else {0.0})
        for at in sorted(places):
            now = bar.chord_at(at)
            if every in ("bar", "half") or now != chord or (every == "two" and at == 0 and k % 2 == 0):
                out.append((bar.start + at, bar))
            chord = now
    return out


def _low(bars: list[Bar], rng: np.random.Generator, style: Style) -> list[Note]:
    """The bass: long roots, struck at every chord, bar or half bar, or a pedal over it all; some walk to the next root."""
    kind, centre = (
        str(rng.choice(["chord", "bar", "half", "beats", "pedal"], p=[0.35, 0.25, 0.15, 0.1, 0.15])),
        int(rng.integers(34, 46)),
    )
    walks, notes = rng.random() < 0.25, []
    for at, bar in _changes(bars, {"chord": "chord", "half": "half"}.get(kind, "bar")):
        inside = at - bar.start
        root = near(style.key if kind == "pedal" else bar.chord_at(inside).root, centre)
        left = bar.n_beats - inside
        if kind == "beats":
            notes += [(at + k, 0.9, root, 0.7 if k else 0.85) for k in range(int(left))]
            continue
        notes.append((at, left * (1.0 if rng.random() < 0.8 else 0.7), root, 0.75))
        if walks and left >= 3 and rng.random() < 0.5:
            notes.append((at + left - 1, 1.0, root + int(rng.choice([-2, 2, 5, -1, 7])), 0.6))
    return notes


def _line(bars: list[Bar], rng: np.random.Generator, style: Style) -> list[Note]:
    """An inner voice that moves by one or two beats, from chord tone to neighbour, bound together."""
    step, centre = float(rng.choice([1.0, 1.0, 2.0, 0.5])), int(rng.integers(52, 70))
    ladder = sorted(12 * o + s + style.key for o in range(11) for s in style.scale)
    rung, notes = int(np.argmin(np.abs(np.array(ladder) - centre))), []
    for bar in bars:
        for at in np.arange(0, bar.n_beats, step):
            rung += int(rng.choice([-1, -1, 0, 1, 1, 2, -2]))
            rung = int(np.clip(rung, 20, len(ladder) - 20))
            pitch = ladder[rung]
            if at % 2 == 0:
                pitch = near((bar.chord_at(at).root + int(rng.choice(bar.chord_at(at).intervals[:3]))) % 12, pitch)
            if rng.random() < 0.85:
                notes.append(
                    (bar.start + float(at), step * float(rng.choice([0.9, 1.05, 1.2])), pitch, float(rng.uniform(0.45, 0.7)))
                )
    return notes


def _figure(bars: list[Bar], rng: np.random.Generator, style: Style) -> list[Note]:
    """Broken chords or a repeated figure, from quarter to sixteenth notes, some with holes; hands that play let notes ring."""
    third = style.sub == 3
    step = float(rng.choice([1 / 3, 1.0])) if third else float(rng.choice([1.0, 0.5, 0.5, 0.5, 0.25, 0.25]))
    centre, rings = int(rng.integers(50, 76)), float(rng.choice([0.6, 1.0, 2.0, 4.0]))
    shape = [
        (0, 1, 2, 3),
        (0, 2, 1, 2),
        (0, 1, 2, 1),
        (0, 2, 3, 2),
        (2, 1, 0, 1),
        (0, 0, 0, 0),
        (0, 0, 1, 0),
        (0, 1, 2, 3, 4, 3, 2, 1),
    ][rng.integers(8)]
    holes, notes = float(rng.choice([0.0, 0.0, 0.15, 0.4])), []
    n_steps = round(bars[0].n_beats / step)
    on = rng.random(n_steps) >= holes
    stress = float(rng.choice([0.0, 0.1, 0.25]))
    for bar in bars:
        for k in range(round(bar.n_beats / step)):
            if on[k % n_steps]:
                tones = voicing(bar.chord_at(k * step), centre, 4)
                tone = tones[shape[k % len(shape)] % len(tones)] + 12 * (shape[k % len(shape)] // len(tones))
                notes.append(
                    (
                        bar.start + k * step,
                        step * rings,
                        tone,
                        0.55 + (stress if k == 0 else 0.0) + float(rng.uniform(-0.05, 0.05)),
                    )
                )
    return notes


def _tune(bars: list[Bar], rng: np.random.Generator, style: Style) -> list[Note]:
    """A slow melody, bound together, that comes again."""
    density, centre, size = float(rng.uniform(0.12, 0.55)), int(rng.integers(60, 80)), int(rng.choice([4, 4, 8]))
    slow = Style(1 if rng.random() < 0.5 else style.sub, style.scale, style.key, rng, style.memo)
    notes: list[Note] = []
    kept: dict[int, list[Note]] = {}
    for first in range(0, len(bars), size):
        phrase = bars[first : first + size]
        which = int(rng.integers(3))
        if which not in kept or sum(b.n_beats for b in phrase) != size * bars[0].n_beats:
            tune = lead(phrase, slow, centre, density) if slow.sub > 1 else _long_notes(phrase, centre, rng)
            kept[which] = [(a - phrase[0].start, d, p, v) for a, d, p, v in tune]
        notes += [(a + phrase[0].start, d * 1.05, p, v) for a, d, p, v in kept[which]]
    return notes


def _long_notes(bars: list[Bar], centre: int, rng: np.random.Generator) -> list[Note]:
    """A phrase in notes of one to four beats, most of them begun on strong beats."""
    notes: list[Note] = []
    pitch = centre
    for bar in bars:
        weight = step_weights(bar.n_beats, list(bar.groups), 1)
        on = np.flatnonzero(rng.random(bar.n_beats) < np.clip(weight * rng.uniform(0.4, 1.0), 0, 0.97))
        for k, at in enumerate(on):
            until = on[k + 1] if k + 1 < on.size else bar.n_beats
            chord = bar.chord_at(float(at))
            pitch = near((chord.root + int(rng.choice(chord.intervals))) % 12, pitch + int(rng.integers(-4, 5)))
            pitch = int(np.clip(pitch, centre - 9, centre + 12))
            notes.append((bar.start + float(at), float(until - at), pitch, float(rng.uniform(0.55, 0.85))))
    return notes


def _drums(piece: Piece, rng: np.random.Generator) -> bool:
    """Deep drums at the head of bars, or a soft tick, in some pieces; a cymbal that swells into a section in others."""
    notes: list[Note] = []
    if rng.random() < 0.22:
        n = piece.bars[0].n_beats
        on = rng.random(2 * n) < np.where(np.arange(2 * n) % 2 == 0, 0.35, 0.1)
        on[0] = True
        sparse = int(rng.choice([1, 1, 2, 4]))
        notes = [
            (b.start + k / 2, 1.0, int(rng.integers(36, 42)), 0.95 if k == 0 else 0.7)
            for b in piece.bars[::sparse]
            for k in np.flatnonzero(on)
            if k / 2 < b.n_beats
        ]
        piece.parts.append(_player(rng, int(rng.choice(DEEP_DRUMS)), _in_sections(piece, rng, notes, 0.6)))
    if rng.random() < 0.12:
        drum, step = int(rng.choice([42, 70, 69, 81, 54, 44])), float(rng.choice([1.0, 0.5]))
        ticks = [
            (b.start + k * step, 0.2, drum, 0.5 if k else 0.65) for b in piece.bars for k in range(round(b.n_beats / step))
        ]
        piece.parts.append(Part(None, _in_sections(piece, rng, ticks, 0.6), volume=int(rng.integers(60, 110))))
        notes = ticks
    if rng.random() < 0.25:
        heads = [piece.bars[first].start for _, first, _ in piece.sections[1:]]
        piece.parts.append(Part(119, [(a - 2.0, 2.0, 60, 0.6) for a in heads], volume=70))
    return bool(notes)


def _last_chord(piece: Piece, rng: np.random.Generator, style: Style, total: int) -> None:
    """The chord it ends on, held."""
    piece.downbeat = np.append(piece.downbeat, True)
    for part in piece.parts:
        if part.program not in (None, *DEEP_DRUMS, 119) and part.notes:
            centre = int(np.median([n[2] for n in part.notes[:40]]))
            part.notes.append((float(total), float(rng.uniform(3, 6)), near(style.key, centre), 0.6))
