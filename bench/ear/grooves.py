"""Drum grooves: who hits when within a bar, as strings over the steps of a bar.

A step is `.` (silent), `o` (soft), `x`, `X` (accent) or `?` (now and then). Grooves of four beats are written out; those of
other metres are put together from what a drummer does in them: a low sound at the head of each group, a high one between.
"""

from dataclasses import dataclass

import numpy as np

KICK, STICK, SNARE, CLAP, SNARE_2, HAT, PEDAL, OPEN = 36, 37, 38, 39, 40, 42, 44, 46
CRASH, RIDE, BELL, TAMB, COWBELL, CRASH_2, SPLASH = 49, 51, 53, 54, 56, 57, 55
TOMS = (41, 43, 45, 47, 48, 50)
BONGO_HI, BONGO_LO, CONGA_MUTE, CONGA_HI, CONGA_LO, TIMB_HI, TIMB_LO = 60, 61, 62, 63, 64, 65, 66
AGOGO, CABASA, MARACAS, GUIRO, CLAVES, WOOD_HI, WOOD_LO, TRIANGLE = 67, 69, 70, 73, 75, 76, 77, 81
LEVELS = {".": 0.0, "o": 0.45, "x": 0.75, "X": 1.0, "?": -0.6}


@dataclass(frozen=True)
class Groove:
    """`lines`: {drum: levels, one per step of the bar}; `sub`: steps a beat."""

    sub: int
    lines: dict[int, np.ndarray]


def _bar(text: str, steps: int) -> np.ndarray:
    text = text.replace(" ", "")
    return np.array([LEVELS[c] for c in (text * (steps // len(text) + 1))[:steps]])


# name: (steps a beat, weight, {drum: pattern}); patterns shorter than a bar repeat.
FOUR: dict[str, tuple[int, float, dict[int, str]]] = {
    "rock": (4, 3, {KICK: "x.......x.?.....", SNARE: "....X.......X...", HAT: "x.x.x.x.x.x.x.x."}),
    "rock_b": (4, 3, {KICK: "x.....x.x.......", SNARE: "....X.......X...", HAT: "x.o.x.o.x.o.x.o."}),
    "rock_c": (4, 2, {KICK: "x..x....x.x.....", SNARE: "....X.......X..?", RIDE: "x.x.x.x.x.x.x.x."}),
    "rock_push": (4, 2, {KICK: "x.....x...x...x.", SNARE: "....X.......X...", HAT: "x.x.x.x.x.x.x.x."}),
    "motown": (4, 1.5, {KICK: "x.....x.x.....x.", SNARE: "X...X...X...X...", HAT: "x.x.x.x.x.x.x.x."}),
    "double": (4, 2, {KICK: "x...x...x...x...", SNARE: "..X...X...X...X.", HAT: "x.x.x.x."}),
    "train": (4, 2.5, {KICK: "x...x...x...x...", SNARE: "ooXoooXoooXoooXo"}),
    "train_b": (4, 1.5, {KICK: "x.x.x.x.", SNARE: "oxoXoxoX", PEDAL: "..x...x."}),
    "half": (4, 1.5, {KICK: "x.....?...x.....", SNARE: "........X.......", HAT: "x.x.x.x.x.x.x.x."}),
    "floor": (4, 2.5, {KICK: "X...X...X...X...", OPEN: "..x...x...x...x.", CLAP: "....x.......x..."}),
    "floor_16": (4, 2, {KICK: "X...X...X...X...", HAT: "ooxoooxoooxoooxo", SNARE: "....x.......x..."}),
    "disco": (4, 1.5, {KICK: "X...X...X...X...", SNARE: "....X.......X...", HAT: "x...x...", OPEN: "..x...x."}),
    "funk": (4, 2, {KICK: "x.x....x..x..?..", SNARE: "....X..o.o..X..o", HAT: "x.xxx.x.x.xxx.x."}),
    "funk_16": (4, 2, {KICK: "x..?..x...x..x..", SNARE: "....X.?.?...X..?", HAT: "xoxoxoxoxoxoxoxo"}),
    "break": (4, 2, {KICK: "x.x.......xx....", SNARE: "....X..o.o..X...", RIDE: "x.x.x.x."}),
    "break_fast": (4, 1.5, {KICK: "x.........x.....", SNARE: "....X.......X..o", HAT: "x.x.x.x.xxx.x.x."}),
    "bossa": (4, 2, {KICK: "x..xx..xx..xx..x", STICK: "x..x..x...x..x..", HAT: "x.x.x.x."}),
    "samba": (4, 1.5, {KICK: "x..xx..xx..xx..x", SNARE: "ox.xox.xoxx.oxxo", SPLASH: "..?."}),
    "latin": (
        4,
        2,
        {CONGA_MUTE: "x.o.x.o.", CONGA_HI: "....x.......x...", CONGA_LO: "......xx......xx", COWBELL: "x...x.x.x...x.x."},
    ),
    "clave": (
        4,
        1.5,
        {CLAVES: "x..x..x...x.x...", CONGA_LO: "......x.......xx", MARACAS: "x.x.x.x.", KICK: "...x..x....x..x."},
    ),
    "reggae": (4, 1.5, {KICK: "........X.......", STICK: "........x.......", HAT: "x.x.x.x."}),
    "steppers": (4, 1, {KICK: "X...X...X...X...", STICK: "........x.......", HAT: "..x...x."}),
    "ska": (4, 1.5, {KICK: "x.......x.......", SNARE: "....X.......X...", HAT: "..x...x...x...x."}),
    "march": (4, 1.5, {KICK: "X.......x.......", SNARE: "x.xxx.xxx.xxxxxx", CRASH_2: "........?......."}),
    "march_b": (4, 1, {KICK: "X...x...", SNARE: "..x...x."}),
    "polka": (4, 1.5, {KICK: "X...X...", SNARE: "..x...x.", HAT: "..x."}),
    "toms": (4, 1.5, {43: "x..x..x.x..x....", 47: "...........?x.x.", KICK: "x.......x......."}),
    "cymbal": (4, 1, {RIDE: "x...x...x...x...", PEDAL: "....x.......x..."}),
    "shaker": (4, 1.5, {MARACAS: "xoXoxoXo", KICK: "x.......x......."}),
    "shaker_only": (4, 1, {CABASA: "XoxoXoxo"}),
    "tamb": (4, 1, {TAMB: "..x...x...x...x.", KICK: "x.......x......."}),
    "hats_only": (4, 1, {HAT: "x.x.X.x."}),
    "stomp": (4, 1, {KICK: "X...X...X...X...", CLAP: "....X.......X..."}),
    "offbeat_snare": (4, 1, {KICK: "x..x..x.x..x..x.", SNARE: "....X.......X...", HAT: "x.x."}),
    "shuffle": (3, 3, {KICK: "x..........xx......", SNARE: "...X.....X..", HAT: "x.xx.xx.xx.x"}),
    "shuffle_b": (3, 3, {KICK: "x.....x..x..", SNARE: "...X.....X..", RIDE: "x.xx.xx.xx.x"}),
    "shuffle_flat": (3, 2, {KICK: "x..x..x..x..", SNARE: "..oX.o..oX.o", HAT: "x.xx.x"}),
    "boogie": (3, 2, {KICK: "x..x..x..x..", SNARE: "..x..x..x..x", HAT: "x.x"}),
    "swing": (3, 3, {RIDE: "x..x.xx..x.x", PEDAL: "...x.....x..", KICK: "o..o..o..o..", SNARE: "..?.....?..?"}),
    "swing_brush": (3, 2, {SNARE: "x..X.ox..X.o", PEDAL: "...x.....x..", KICK: "?.....?....."}),
    "swing_two": (3, 1.5, {KICK: "x.....x.....", HAT: "x..x.xx..x.x", STICK: ".........x.."}),
    "half_shuffle": (3, 1.5, {KICK: "x....x......", SNARE: "o.o.o.Xo.o.o", HAT: "x.xx.xx.xx.x"}),
    "twelve": (3, 2, {KICK: "x....xx.....", SNARE: "...X.....X..", HAT: "xxxxxxxxxxxx"}),
    "twelve_b": (3, 1.5, {KICK: "x.....x..x..", SNARE: "...X.....X..", RIDE: "XxxXxxXxxXxx"}),
    "hip_swing": (3, 1, {KICK: "x....x..x...", SNARE: "...X.....X..", HAT: "x.xx.xx.xx.x"}),
}


def groups_of(n_beats: int, rng: np.random.Generator) -> list[int]:
    """How a bar of so many beats falls into groups of two and three (its inner stresses)."""
    choices = {
        2: [[2]],
        3: [[3]],
        4: [[2, 2], [4]],
        5: [[3, 2], [2, 3]],
        6: [[3, 3], [2, 2, 2]],
        7: [[4, 3], [3, 4], [2, 2, 3]],
    }
    options = choices[n_beats]
    return options[rng.integers(len(options))]


def four_beats(rng: np.random.Generator, sub: int) -> Groove:
    """One of the written grooves that has `sub` steps a beat."""
    names = [n for n, g in FOUR.items() if g[0] == sub]
    weights = np.array([FOUR[n][1] for n in names])
    steps, _, lines = FOUR[names[rng.choice(len(names), p=weights / weights.sum())]]
    return Groove(steps, {drum: _bar(p, 4 * steps) for drum, p in lines.items()})


def any_beats(n_beats: int, groups: list[int], rng: np.random.Generator, sub: int) -> Groove:
    """A groove for any metre: low at the head of each group, high between, a ticking sound on the subdivisions."""
    steps = n_beats * sub
    kick, snare, tick = np.zeros(steps), np.zeros(steps), np.zeros(steps)
    at = 0
    back = rng.random() < 0.6  # every beat after the head answers, or only one in the middle
    for g, size in enumerate(groups):
        kick[at * sub] = 1.0 if g == 0 else (0.75 if rng.random() < 0.75 else 0.0)
        answers = range(1, size) if back else [1 if rng.random() < 0.5 else size - 1]
        for b in answers:
            snare[(at + b) * sub] = 0.85
        if rng.random() < 0.35:
            kick[(at + size) * sub - (sub // 2 if sub == 4 else 1)] = 0.6
        at += size
    every = rng.choice([1, 2, sub]) if sub == 4 else rng.choice([1, sub])
    tick[::every] = 0.6
    tick[::sub] = 0.8
    if sub == 3 and rng.random() < 0.5:  # swung
        tick[1::3] = 0.0
        tick[2::3] = rng.choice([0.0, 0.6])
    high = int(rng.choice([SNARE, SNARE, STICK, HAT, CLAP, TAMB]))
    lines = {KICK: kick, high: snare, int(rng.choice([HAT, HAT, RIDE, MARACAS, TRIANGLE])): tick}
    if rng.random() < 0.25:
        lines.pop(KICK)
    return Groove(sub, lines)


def random_beats(n_beats: int, rng: np.random.Generator, sub: int) -> Groove:
    """A groove that nobody would play: hits drawn by how strong each step is in the metre."""
    steps = n_beats * sub
    weight = step_weights(n_beats, [n_beats], sub)
    lines = {}
    for drum in rng.choice([KICK, SNARE, HAT, RIDE, STICK, COWBELL, CONGA_HI, BONGO_LO, 43, 47, CLAP, TAMB], 3, replace=False):
        share = rng.uniform(0.15, 0.6)
        on = spread(steps, sub, rng) if rng.random() < 0.4 else rng.random(steps) < share * 1.6 * weight
        lines[int(drum)] = np.where(on, rng.choice([0.6, 0.8, 1.0], steps), 0.0)
    lines[KICK] = np.where(np.arange(steps) == 0, 1.0, lines.get(KICK, np.zeros(steps)))
    return Groove(sub, lines)


def step_weights(n_beats: int, groups: list[int], sub: int) -> np.ndarray:
    """How strong each step of a bar is, 0 to 1: bar, group, beat, half, quarter of a beat."""
    weight = np.full(n_beats * sub, 0.2)
    if sub == 4:
        weight[2::4] = 0.42
    elif sub == 2:
        weight[1::2] = 0.42
    else:
        weight[2::3] = 0.4
    weight[::sub] = 0.7
    at = 0
    for size in groups:
        weight[at * sub] = 0.85
        at += size
    weight[0] = 1.0
    return weight


def evenly(hits: int, steps: int, backwards: bool = False) -> np.ndarray:
    """Which steps are struck when so many hits are spread as evenly as they go, step 0 among them (Toussaint 2005)."""
    on = (np.arange(steps) * hits) % steps < hits
    return np.roll(on[::-1], 1) if backwards else on


def spread(n_steps: int, sub: int, rng: np.random.Generator) -> np.ndarray:
    """An even spread over a bar that crosses its beats: three or five in eight, five, seven or nine in sixteen."""
    wide = sub == 4 and n_steps % 2 == 0 and rng.random() < 0.6
    steps = n_steps // 2 if wide else n_steps
    share = rng.choice([3 / 8, 3 / 8, 5 / 8]) if wide or sub == 3 else rng.choice([5 / 16, 7 / 16, 9 / 16, 3 / 16])
    on = evenly(max(2, round(steps * share)), steps, bool(rng.random() < 0.35))
    out = np.zeros(n_steps, bool)
    out[:: 2 if wide else 1] = on
    return out


def with_gaps(n_steps: int, sub: int, rng: np.random.Generator) -> np.ndarray:
    """A run of halves or quarters of a beat with a few left out, as often on a beat as off it, though seldom beat one."""
    step = int(rng.choice([1, 2, 2, 2])) if sub == 4 else 1
    out = np.zeros(n_steps, bool)
    out[::step] = True
    struck = np.flatnonzero(out)[int(rng.random() < 0.9) :]
    out[rng.choice(struck, min(struck.size, int(rng.integers(1, max(2, struck.size // 2) + 1))), replace=False)] = False
    return out


def moved(groove: Groove, by_steps: int) -> Groove:
    """The groove begun later in the bar: not all drummers stress what the others count from."""
    return Groove(groove.sub, {drum: np.roll(levels, by_steps) for drum, levels in groove.lines.items()})


def vary(groove: Groove, rng: np.random.Generator) -> Groove:
    """The groove with a hit more or less here and there, another cymbal, or a drum left out."""
    lines = {d: p.copy() for d, p in groove.lines.items()}
    for drum, pattern in lines.items():
        if rng.random() < 0.3:
            k = rng.integers(1, pattern.size)
            pattern[k] = 0.0 if pattern[k] else (0.5 if drum != KICK or k % groove.sub else 0.7)
    swaps = {
        HAT: [RIDE, TAMB, MARACAS, CABASA, PEDAL, WOOD_HI],
        SNARE: [SNARE_2, STICK, CLAP, CONGA_HI],
        KICK: [35, 43, 64],
        RIDE: [HAT, BELL],
    }
    for drum in list(lines):
        if drum in swaps and rng.random() < 0.2:
            lines[int(rng.choice(swaps[drum]))] = lines.pop(drum)
    if len(lines) > 1 and rng.random() < 0.12:
        lines.pop(list(lines)[rng.integers(len(lines))])
    return Groove(groove.sub, lines)
