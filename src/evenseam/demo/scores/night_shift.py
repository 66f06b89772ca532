"""'Night Shift': a funky vamp, 4/4 at 104, as a raw transfer: room noise before and after, two bars counted in with sticks."""

from evenseam.demo.scores.score import CLOSED_HAT, DRUMS, KICK, OPEN_HAT, SNARE, Part, Score, bass, chord

_A = ("Em7", "Em7", "A7", "A7")
_B = ("Cmaj7", "Bm", "Am7", "B7")
_PLAN = "CC" + "A" * 16 + "B" * 8 + "A" * 8 + "B" * 8 + "A" * 8 + "E"
_STICKS = 31
_RIFF = ((0.0, 0.7, 0), (0.75, 0.2, 0), (1.5, 0.4, 12), (2.5, 0.3, 7), (3.0, 0.3, 10), (3.5, 0.4, 12))


def score() -> Score:
    """The piece, 51 bars and two of count-in, some 2:05."""
    low, clav, organ, drums = Part(0, 36, 108), Part(1, 7, 84, 46), Part(2, 16, 70, 84), Part(DRUMS, 0, 104)
    for bar, kind in enumerate(_PLAN):
        at = bar * 4.0
        if kind == "C":
            for beat in (0, 2) if bar == 0 else range(4):
                drums.play(at + beat, 0.1, _STICKS, 92)
            continue
        if kind == "E":
            for part, pitches in ((low, [28]), (clav, chord("Em7", 52)), (organ, chord("Em7", 64))):
                part.chord(at, 1.0, pitches, 112)
            drums.play(at, 0.3, KICK, 118)
            drums.play(at, 1.0, 49, 104)
            break
        name = (_B if kind == "B" else _A)[(bar - 2) % 4]
        root_pitch = bass(name, 28)
        for when, length, step in _RIFF:
            low.play(at + when, length, root_pitch + step, 112 if when == 0 else 90)
        for when in (0.5, 1.25, 1.75, 2.5, 3.25) if kind == "A" else (0, 1.5, 2.75):
            clav.chord(at + when, 0.2, chord(name, 55), 84)
        if kind == "B":
            organ.chord(at, 3.9, chord(name, 64), 78)
        _groove(drums, at, bar, kind)
    return Score(
        "night_shift", "Night Shift", "funk, raw transfer", 108, 4, len(_PLAN), (low, clav, organ, drums),
        lead_in_s=2.6, ring_s=2.0, noise_tail_s=3.4, noise_db=-62.0, count_in_bars=2,
    )  # fmt: skip


def _groove(drums: Part, at: float, bar: int, kind: str) -> None:
    for beat in (0, 1.75, 2.5):
        drums.play(at + beat, 0.2, KICK, 114 if beat == 0 else 92)
    for beat in (1, 3):
        drums.play(at + beat, 0.2, SNARE, 106)
    for step in range(16):
        drums.play(at + step / 4, 0.1, OPEN_HAT if step == 14 and bar % 2 else CLOSED_HAT, 84 if step % 4 == 0 else 58)
    if kind == "A" and bar % 8 == 1:
        for step in range(6):
            drums.play(at + 2.5 + step / 4, 0.1, SNARE, 76 + 6 * step)
