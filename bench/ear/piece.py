"""A whole piece: form, harmony, players and time, drawn at random within what musicians do."""

from dataclasses import dataclass, field

import numpy as np

from ear import grooves
from ear.parts import COMP_KINDS, SCALES, Bar, Chord, Note, Style, bass, bass_kinds, comp, lead, near

TRIADS = {
    "maj": (0, 4, 7),
    "min": (0, 3, 7),
    "7": (0, 4, 7, 10),
    "m7": (0, 3, 7, 10),
    "maj7": (0, 4, 7, 11),
    "sus": (0, 5, 7),
    "5": (0, 7, 12),
    "dim": (0, 3, 6),
}
# Progressions as (degree in semitones, chord), a cell each.
PROGRESSIONS = {
    "major": [
        [(0, "maj"), (7, "maj"), (9, "min"), (5, "maj")],
        [(0, "maj"), (5, "maj"), (7, "maj"), (0, "maj")],
        [(0, "maj"), (9, "min"), (5, "maj"), (7, "maj")],
        [(0, "maj7"), (2, "m7"), (7, "7"), (0, "maj7")],
        [(2, "m7"), (7, "7"), (0, "maj7"), (9, "7")],
        [(0, "maj"), (0, "maj"), (5, "maj"), (7, "maj")],
        [(5, "maj"), (7, "maj"), (4, "min"), (9, "min")],
        [(0, "maj"), (4, "min"), (5, "maj"), (7, "sus")],
        [(0, "maj"), (7, "maj"), (0, "maj"), (7, "maj")],
        [(0, "maj"), (10, "maj"), (5, "maj"), (0, "maj")],
        [(0, "maj")],
        [(0, "maj"), (5, "maj")],
    ],
    "minor": [
        [(0, "min"), (8, "maj"), (3, "maj"), (10, "maj")],
        [(0, "min"), (10, "maj"), (8, "maj"), (7, "maj")],
        [(0, "min"), (5, "min"), (7, "7"), (0, "min")],
        [(0, "m7"), (5, "7")],
        [(0, "min")],
        [(0, "min"), (0, "min"), (5, "min"), (0, "min")],
        [(0, "min"), (3, "maj"), (10, "maj"), (5, "maj")],
        [(0, "5"), (3, "5"), (5, "5"), (0, "5")],
        [(0, "min"), (10, "maj")],
        [(2, "dim"), (7, "7"), (0, "min"), (0, "min")],
    ],
    "blues": [
        [(0, "7")] * 4 + [(5, "7")] * 2 + [(0, "7")] * 2 + [(7, "7"), (5, "7"), (0, "7"), (7, "7")],
        [
            (0, "7"),
            (5, "7"),
            (0, "7"),
            (0, "7"),
            (5, "7"),
            (5, "7"),
            (0, "7"),
            (0, "7"),
            (7, "7"),
            (5, "7"),
            (0, "7"),
            (0, "7"),
        ],
        [(0, "7"), (0, "7"), (5, "7"), (0, "7")],
        [(0, "7"), (5, "7")],
        [(0, "7")],
    ],
}
# How songs and library music go: verse A, chorus B, bridge C.
SONG_FORMS = ("ABABCB", "AABABCB", "ABABCABB", "ABACABA", "AABBAB", "ABCABC", "ABABCBB", "AABACABA", "ABAB", "AABCAB")
PADS = [48, 49, 50, 51, 52, 54, 88, 89, 90, 91, 92, 94, 95, 16, 18, 19, 20, 21, 61, 44]
KEYS = [
    0,
    1,
    2,
    3,
    4,
    5,
    6,
    7,
    11,
    15,
    16,
    17,
    18,
    80,
    81,
    24,
    25,
    26,
    27,
    28,
    29,
    30,
    46,
    45,
    12,
    8,
    9,
    10,
    105,
    104,
    106,
    107,
]
LEADS = [
    0,
    4,
    11,
    21,
    22,
    24,
    26,
    27,
    29,
    30,
    40,
    41,
    42,
    56,
    57,
    58,
    59,
    60,
    61,
    62,
    64,
    65,
    66,
    67,
    68,
    69,
    70,
    71,
    72,
    73,
    74,
    75,
    76,
    78,
    79,
    80,
    81,
    82,
    84,
    85,
    87,
    105,
    109,
    110,
    114,
]
VOICES = [52, 53, 54]
BASSES = [32, 32, 33, 33, 34, 35, 36, 38, 39, 43, 58, 0, 87, 70]


@dataclass
class Part:
    """One player: General MIDI program (None: drums), notes in beats, and how loosely they play (s)."""

    program: int | None
    notes: list[Note]
    late_s: float = 0.0
    jitter_s: float = 0.0
    volume: int = 100
    pan: int = 64
    is_lead: bool = False
    is_voice: bool = False
    swells: list[tuple[float, float]] = field(default_factory=list)  # loudness along the piece: (beat, 0 to 1)


@dataclass
class Piece:
    """Parts, the seconds of every beat, which beats are downbeats; empty `beat_s` for music without a beat."""

    parts: list[Part]
    beat_s: np.ndarray
    downbeat: np.ndarray
    bars: list[Bar] = field(default_factory=list)
    swing: float = 0.5
    swing_unit: float = 1.0
    compound: bool = False
    label: str = ""
    sections: list[tuple[str, int, int]] = field(default_factory=list)  # letter, first bar, bars

    def seconds(self, beat: float) -> float:
        """Seconds of a place in beats: swung within the unit, interpolated between beats."""
        unit = self.swing_unit
        whole, within = divmod(beat / unit, 1.0)
        s = self.swing
        within = within * 2 * s if within < 0.5 else s + (within - 0.5) * 2 * (1 - s)
        place = (whole + within) * unit
        k = np.arange(self.beat_s.size)
        if place < 0:
            return float(self.beat_s[0] + place * (self.beat_s[1] - self.beat_s[0]))
        if place > k[-1]:
            return float(self.beat_s[-1] + (place - k[-1]) * (self.beat_s[-1] - self.beat_s[-2]))
        return float(np.interp(place, k, self.beat_s))


def make_piece(seed: int) -> Piece:
    """The piece of a seed; the same seed gives the same piece."""
    rng = np.random.default_rng(seed)
    n_beats, sub, compound = _meter(rng)
    bpm = _tempo(rng, n_beats, sub, compound)
    drums = rng.random() < 0.78
    mode = str(
        rng.choice(["major", "minor", "blues"], p=[0.45, 0.33, 0.22] if not (sub == 3 and not compound) else [0.3, 0.2, 0.5])
    )
    scale = {
        "major": ["major", "mixolydian", "pentatonic"],
        "minor": ["minor", "dorian", "harmonic"],
        "blues": ["blues", "mixolydian", "dorian"],
    }[mode]
    style = Style(sub, SCALES[str(rng.choice(scale))], int(rng.integers(12)), rng)
    length_s = rng.uniform(50, 110)
    bars, sections = form(rng, style, n_beats, mode, max(8, int(length_s * bpm / 60 / n_beats)))
    total = round(bars[-1].start + bars[-1].n_beats)
    piece = Piece(
        [],
        tempo_map(rng, bpm, total + 8, bars),
        np.zeros(total, bool),
        bars,
        label=f"{n_beats}/{sub}/{mode}{'/drums' if drums else ''}",
    )
    piece.compound, piece.sections = compound, sections
    for b in bars:
        piece.downbeat[round(b.start)] = True
    if sub == 4 and rng.random() < 0.22:
        piece.swing, piece.swing_unit = float(rng.uniform(0.54, 0.68)), float(rng.choice([1.0, 1.0, 0.5]))
    _band(piece, rng, style, sections, drums, n_beats)
    _ending(piece, rng, style, total, drums)
    return piece


def _meter(rng: np.random.Generator) -> tuple[int, int, bool]:
    """Beats to the bar, steps a beat, and whether the beats are dotted ones (six, nine and twelve eight)."""
    if rng.random() < 0.14:
        return int(rng.choice([2, 4, 3], p=[0.55, 0.33, 0.12])), 3, True
    n_beats = int(rng.choice([4, 3, 2, 5, 6, 7], p=[0.66, 0.14, 0.06, 0.055, 0.05, 0.035]))
    return n_beats, 3 if rng.random() < (0.32 if n_beats in (2, 3, 4) else 0.15) else 4, False


def _tempo(rng: np.random.Generator, n_beats: int, sub: int, compound: bool) -> float:
    if compound:
        return float(np.clip(rng.lognormal(np.log(80), 0.28), 45, 150))
    if n_beats == 2:
        return float(np.clip(rng.lognormal(np.log(110), 0.22), 60, 190))
    centre, spread = (122, 0.3) if sub == 4 else (128, 0.3)
    if n_beats in (3, 6):
        centre = 132
    return float(np.clip(rng.lognormal(np.log(centre), spread), 55, 215))


def tempo_map(rng: np.random.Generator, bpm: float, n: int, bars: list[Bar], swaying: float = 0.08) -> np.ndarray:
    """Seconds of every beat: steady, drifting, swaying by phrase (rubato, in so large a share), or changing at a section."""
    rate = np.full(n, bpm)
    kind = rng.choice(["steady", "drift", "rubato", "steps", "loose"], p=[0.76 - swaying, 0.1, swaying, 0.06, 0.08])
    if kind == "drift":
        rate *= np.exp(np.interp(np.arange(n), np.linspace(0, n, 6), rng.normal(0, 0.05, 6)))
    elif kind == "rubato":
        phrase = 4 * bars[0].n_beats
        rate *= 1 - rng.uniform(0.05, 0.2) * np.abs(np.sin(np.pi * np.arange(n) / phrase + rng.uniform(0, 3))) ** 4
        rate *= np.exp(np.convolve(rng.normal(0, 0.03, n), np.ones(4) / 4, "same"))
    elif kind == "steps":
        for cut in rng.integers(8, n, 2):
            rate[cut:] = bpm * rng.uniform(0.85, 1.18)
    elif kind == "loose":
        rate *= np.exp(np.convolve(rng.normal(0, 0.02, n), np.ones(8) / 8, "same"))
    if rng.random() < 0.25:  # slowing down to the end
        k = int(rng.integers(2, 9))
        rate[-8 - k :] *= np.linspace(1, rng.uniform(0.6, 0.9), k + 8)
    start = rng.uniform(0.0, 1.5)
    return start + np.concatenate([[0], np.cumsum(60 / rate)[:-1]])


def make_song(seed: int) -> Piece:
    """A long piece with a form as songs and library music have them: verses, choruses, bridges, varied when they come again.

    Its sections differ in their harmony, so that whoever hears the form can tell them apart.
    """
    rng = np.random.default_rng(seed)
    n_beats, sub = int(rng.choice([4, 4, 4, 3])), int(rng.choice([4, 4, 3]))
    bpm = float(np.clip(rng.lognormal(np.log(112), 0.22), 70, 170))
    drums, mode = rng.random() < 0.8, str(rng.choice(["major", "minor"]))
    style = Style(sub, SCALES["major" if mode == "major" else "minor"], int(rng.integers(12)), rng)
    letters = str(rng.choice(SONG_FORMS))
    bars, sections = form(rng, style, n_beats, mode, 10**6, letters)
    total = round(bars[-1].start + bars[-1].n_beats)
    tempo = tempo_map(rng, bpm, total + 8, bars)
    piece = Piece([], tempo, np.zeros(total, bool), bars, label=f"{n_beats}/{sub}/{letters}", sections=sections)
    for b in bars:
        piece.downbeat[round(b.start)] = True
    _band(piece, rng, style, sections, drums, n_beats)
    _ending(piece, rng, style, total, drums)
    return piece


def form(
    rng: np.random.Generator, style: Style, n_beats: int, mode: str, n_bars: int, letters: str = ""
) -> tuple[list[Bar], list[tuple[str, int, int]]]:
    """Bars with their chords, and sections (letter, first bar, bars); of some letters if they are given."""
    is_song = bool(letters)
    if not is_song:
        letters = "".join(rng.choice(["A", "A", "B", "C"], 16))
        if rng.random() < 0.6:
            letters = str(rng.choice(["AABA", "ABAB", "AABB", "ABAC", "AAAA", "ABCA"])) * 4
    groups = {c: tuple(grooves.groups_of(n_beats, rng)) for c in "A"}
    chords = {c: _harmony(rng, mode, n_beats) for c in "ABC"}
    sizes = {c: int(rng.choice([4, 8, 8, 8, 12, 16, 6, 7], p=[0.12, 0.25, 0.15, 0.15, 0.12, 0.15, 0.03, 0.03])) for c in "ABC"}
    if is_song:
        while len({str(c) for c in chords.values()}) < len(chords):
            chords = {c: _harmony(rng, mode, n_beats) for c in "ABC"}
        sizes = {c: int(rng.choice([8, 12, 16, 16, 24], p=[0.25, 0.1, 0.35, 0.2, 0.1])) for c in "ABC"}
    pushed = {c: rng.random() < 0.12 and style.sub != 3 for c in "ABC"}
    bars: list[Bar] = []
    sections: list[tuple[str, int, int]] = []
    start = 0.0
    for letter in "I" + letters:
        size = int(rng.choice([0, 1, 2, 4, 4, 8])) if letter == "I" else sizes[letter]
        if not size:
            continue
        cells, letter_of = chords["A" if letter == "I" else letter], "A" if letter == "I" else letter
        sections.append((letter, len(bars), size))
        for i in range(size):
            n = n_beats
            if i == size - 1 and rng.random() < 0.02:
                n = max(2, n_beats // 2)  # a short bar before the next section
            bars.append(
                Bar(
                    start,
                    n,
                    groups["A"] if n == n_beats else (n,),
                    _chords_of(cells, i, n, style.key),
                    i,
                    size,
                    pushed[letter_of],
                )
            )
            start += n
        if len(bars) >= n_bars:
            break
    return bars, sections


def _harmony(rng: np.random.Generator, mode: str, n_beats: int) -> list[list[tuple[float, int, str]]]:
    """Per bar of a cycle: (place in the bar as a share, degree, chord). Harmony moves mostly at the bar."""
    options = PROGRESSIONS[mode]
    chain = list(options[rng.integers(len(options))])
    if len(chain) < 12 and rng.random() < 0.4:
        chain += options[rng.integers(len(options))][:4]
    rhythm = rng.choice(["bar", "two", "half", "four", "mixed"], p=[0.5, 0.2, 0.13, 0.07, 0.1]) if len(chain) < 12 else "bar"
    if rhythm == "half" and n_beats in (2, 3, 5, 7):
        rhythm = "bar"
    if rhythm == "half":
        return [[(0.0, *chain[k]), (0.5, *chain[(k + 1) % len(chain)])] for k in range(0, len(chain), 2)]
    if rhythm == "mixed":
        return [[(0.0, *c)] if rng.random() < 0.7 or n_beats % 2 else [(0.0, *c), (0.5, (c[0] + 5) % 12, c[1])] for c in chain]
    return [[(0.0, *c)] for c in chain for _ in range({"bar": 1, "two": 2, "four": 4}[str(rhythm)])]


def _chords_of(cells: list, index: int, n_beats: int, key: int) -> tuple[Chord, ...]:
    cell = cells[index % len(cells)]
    return tuple(Chord(float(int(share * n_beats)), (key + degree) % 12, TRIADS[name]) for share, degree, name in cell)


def _band(piece: Piece, rng: np.random.Generator, style: Style, sections: list, drums: bool, n_beats: int) -> None:
    """Who plays, and in which sections."""
    tight = float(rng.choice([0.0, 0.0, 0.003, 0.008]))

    def part(program: int | None, notes: list[Note], **more: object) -> None:
        if notes:
            late = float(rng.normal(0, 0.008)) if program is not None and tight else 0.0
            piece.parts.append(Part(program, notes, late, tight, int(rng.integers(70, 118)), int(rng.integers(30, 98)), **more))  # type: ignore[arg-type]

    every = {letter: rng.random() < 0.5 for letter in "IABC"}
    solo = not drums and rng.random() < 0.35
    if not solo or rng.random() < 0.4:
        kinds = {c: bass_kinds(style.sub)[rng.integers(len(bass_kinds(style.sub)))] for c in "ABCI"}
        same = rng.random() < 0.6
        part(
            int(rng.choice(BASSES)),
            [
                n
                for letter, first, size in sections
                if letter != "I" or rng.random() < 0.6
                for b in piece.bars[first : first + size]
                for n in bass(kinds["A" if same else letter], b, style, letter)
            ],
        )
    for k in range(1 if solo else int(rng.integers(1, 4))):
        kind = str(COMP_KINDS[rng.integers(len(COMP_KINDS))])
        if solo and kind in ("pad", "stabs"):
            kind = "arpeggio"
        program = int(rng.choice(PADS if kind in ("pad", "long") and rng.random() < 0.7 else KEYS))
        centre = int(rng.integers(52, 70))
        on = {letter: k == 0 or rng.random() < 0.75 for letter in "ABCI"}
        notes = [
            n
            for letter, first, size in sections
            if on[letter]
            for b in piece.bars[first : first + size]
            for n in comp(kind, b, style, letter, centre)
        ]
        part(program, notes)
    for _ in range(int(rng.choice([0, 1, 1, 1, 2]))):
        _melody(piece, rng, style, sections, part, every)
    if drums:
        part(None, _drumming(piece, rng, style, sections, n_beats))


def _melody(piece: Piece, rng: np.random.Generator, style: Style, sections: list, part, every: dict) -> None:  # type: ignore[no-untyped-def]
    notes, density, centre = [], float(rng.uniform(0.35, 0.95)), int(rng.integers(62, 80))
    phrase = int(rng.choice([2, 4, 4, 8]))
    kept: dict[tuple[str, int], list[Note]] = {}
    for letter, first, size in sections:
        if not every[letter] and rng.random() < 0.5:
            continue
        for k in range(first, first + size, phrase):
            chunk = piece.bars[k : min(k + phrase, first + size)]
            if (letter, k - first) in kept and rng.random() < 0.75:  # the same tune again
                notes += [(a + chunk[0].start, d, p, v) for a, d, p, v in kept[letter, k - first]]
                continue
            tune = lead(chunk, style, centre, density)
            kept[letter, k - first] = [(a - chunk[0].start, d, p, v) for a, d, p, v in tune]
            notes += tune
    sung = rng.random() < 0.3
    if rng.random() < 0.3:
        notes = [(a, d, p - 12, v) for a, d, p, v in notes]
    part(int(rng.choice(VOICES if sung else LEADS)), notes, is_lead=True, is_voice=sung)


def _drumming(piece: Piece, rng: np.random.Generator, style: Style, sections: list, n_beats: int) -> list[Note]:
    def groove() -> grooves.Groove:
        if rng.random() < 0.1:
            return grooves.random_beats(n_beats, rng, style.sub)
        if n_beats == 4:
            return grooves.four_beats(rng, style.sub)
        return grooves.any_beats(n_beats, list(piece.bars[0].groups), rng, style.sub)

    balance = {drum: float(rng.uniform(0.55, 1.15)) for drum in range(128)}
    clash = int(rng.choice([grooves.CRASH_2, grooves.OPEN, grooves.SPLASH])) if rng.random() < 0.22 else None
    base = groove()
    if rng.random() < 0.06:
        base = grooves.moved(base, base.sub * int(rng.integers(1, n_beats)) - int(rng.choice([0, 0, base.sub // 2])))
    late = _late_stress(rng, piece.bars[0].n_beats, style.sub)
    by_letter = {c: base if rng.random() < 0.6 else groove() for c in "IABC"}
    fills, crash, loud = rng.random() < 0.7, rng.random() < 0.65, float(rng.uniform(0.7, 1.0))
    notes: list[Note] = []
    for letter, first, size in sections:
        if letter == "I" and rng.random() < 0.35:
            continue
        if rng.random() < 0.06:
            continue  # the drums rest for a section
        g = grooves.vary(by_letter[letter], rng) if rng.random() < 0.4 else by_letter[letter]
        for b in piece.bars[first : first + size]:
            fill = fills and (b.index == b.of - 1 or (b.index % 4 == 3 and rng.random() < 0.35))
            fill_from = b.n_beats - int(rng.integers(1, min(3, b.n_beats) + 1)) if fill else b.n_beats
            for drum, levels in g.lines.items():
                for s in np.flatnonzero(levels[: b.n_beats * g.sub]):
                    if s / g.sub < fill_from and (levels[s] > 0 or rng.random() < 0.4):
                        level = min(1.0, balance[drum] * loud * abs(levels[s]))
                        notes.append((b.start + s / g.sub, 0.2, drum, level))
                        if clash and drum in (grooves.SNARE, grooves.CLAP) and levels[s] > 0.8:
                            notes.append((b.start + s / g.sub, 0.5, clash, level))
            notes += [(b.start + at, 0.3, drum, level) for at, drum, level in late if at < fill_from]
            if fill:
                notes += _fill(rng, b, fill_from, g.sub)
            if crash and b.index == 0 and rng.random() < 0.8:
                notes.append((b.start, 1.0, int(rng.choice([grooves.CRASH, grooves.CRASH_2, grooves.SPLASH])), 0.9))
    return notes


def _late_stress(rng: np.random.Generator, n_beats: int, sub: int) -> list[tuple[float, int, float]]:
    """Now and then a sound that is struck late in every bar, so that loud does not mean beat one."""
    if rng.random() > 0.15:
        return []
    drum = int(rng.choice([grooves.COWBELL, grooves.BELL, grooves.WOOD_HI, grooves.TIMB_HI, grooves.AGOGO, grooves.CLAP, 45]))
    steps = np.arange(n_beats * sub)
    on = steps[rng.random(steps.size) < np.where(steps % sub == 0, 0.8, 0.25) * (steps / steps.size) ** 2]
    level = float(rng.uniform(0.6, 1.0))
    return [(s / sub, drum, level) for s in on]


def _fill(rng: np.random.Generator, bar: Bar, at: float, sub: int) -> list[Note]:
    drum_set = [grooves.SNARE, *grooves.TOMS] if rng.random() < 0.7 else [grooves.SNARE]
    steps = np.flatnonzero(rng.random(round((bar.n_beats - at) * sub)) < rng.uniform(0.4, 0.95))
    return [(bar.start + at + s / sub, 0.2, int(rng.choice(drum_set)), float(rng.uniform(0.5, 1.0))) for s in steps]


def _ending(piece: Piece, rng: np.random.Generator, style: Style, total: int, drums: bool) -> None:
    """A last chord on the downbeat after the last bar, or just the end, or a count-in before everything."""
    if rng.random() < 0.6:
        piece.downbeat = np.append(piece.downbeat, True)
        for p in piece.parts:
            if p.program is None:
                p.notes += [(total, 2.0, grooves.CRASH, 0.9), (total, 1.0, grooves.KICK, 0.9)]
            elif not p.is_lead:
                p.notes.append((total, 3.0, near(style.key, int(np.median([n[2] for n in p.notes[:40]]))), 0.8))
    n = piece.bars[0].n_beats
    if drums and rng.random() < 0.08:
        _begin_earlier(piece, n)
        piece.parts[-1].notes += [(float(k), 0.2, grooves.STICK, 0.8) for k in range(n)]
    elif rng.random() < 0.15:
        _pick_up(piece, rng, style, int(rng.integers(1, n)) if n > 2 else 1)


def _begin_earlier(piece: Piece, beats: int) -> None:
    """Put some beats before the first bar; a whole bar of them starts with a downbeat."""
    for p in piece.parts:
        p.notes = [(a + beats, d, q, v) for a, d, q, v in p.notes]
    whole = beats == piece.bars[0].n_beats
    piece.downbeat = np.concatenate([(np.arange(beats) == 0) & whole, piece.downbeat])
    step = piece.beat_s[1] - piece.beat_s[0]
    piece.beat_s = np.concatenate([piece.beat_s[0] + step * np.arange(beats), piece.beat_s + step * beats])


def _pick_up(piece: Piece, rng: np.random.Generator, style: Style, beats: int) -> None:
    """A part of a bar before the first: one player leads in, on a run or on a few notes, or the drummer alone."""
    _begin_earlier(piece, beats)
    part = piece.parts[int(rng.integers(len(piece.parts)))]
    steps = np.flatnonzero(rng.random(beats * style.sub) < rng.uniform(0.3, 0.9))
    if not steps.size:
        steps = np.array([0])
    centre = int(np.median([n[2] for n in part.notes[:40]]))
    ladder = [12 * o + s + style.key for o in range(11) for s in style.scale]
    home = int(np.argmin(np.abs(np.array(ladder) - centre)))
    for k, s in enumerate(steps):
        pitch = (
            ladder[max(0, home - steps.size + k)]
            if part.program is not None
            else int(rng.choice([grooves.SNARE, *grooves.TOMS]))
        )
        part.notes.append((s / style.sub, 0.9 / style.sub, pitch, float(rng.uniform(0.5, 0.9))))
