"""'Kettle and Frost': a slow song for guitar, bass and drums with a sung-like lead, 4/4 at 92."""

from evenseam.demo.scores.score import CLOSED_HAT, DRUMS, KICK, RIM, Part, Score, bass, chord

_VERSE = ("C", "G", "Am", "F", "C", "G", "F", "G")
_CHORUS = ("F", "G", "C", "Am", "F", "G", "C", "C7")
_PLAN = "IIII" + "V" * 8 + "V" * 8 + "C" * 8 + "IIII" + "V" * 8 + "C" * 8 + "C" * 8 + "E"
_VERSE_LINE = (
    (0.5, 0.5, 67),
    (1, 1, 72),
    (2, 0.5, 71),
    (2.5, 1.2, 69),
    (4, 0.5, 67),
    (4.5, 0.5, 67),
    (5, 1.8, 74),
    (7.5, 0.5, 72),
)
_CHORUS_LINE = ((0, 1.5, 77), (1.5, 0.5, 76), (2, 1.7, 74), (4, 1.0, 76), (5, 0.5, 74), (5.5, 0.5, 72), (6, 1.6, 72))


def score() -> Score:
    """The piece, 57 bars, some 2:30."""
    guitar, low, voice = Part(0, 24, 100, 44), Part(1, 33, 102), Part(2, 53, 110, is_sung=True)
    pad, drums = Part(3, 89, 54, 84), Part(DRUMS, 0, 88)
    for bar, kind in enumerate(_PLAN):
        at = bar * 4.0
        if kind == "E":
            for part, pitches in ((guitar, [48, *chord("C", 55)]), (low, [36]), (pad, chord("C", 60)), (voice, [60])):
                part.chord(at, 3.5, pitches, 86)
            drums.play(at, 0.3, KICK, 96)
            break
        name = (_CHORUS if kind == "C" else _VERSE)[(bar - 4) % 8]
        notes = chord(name, 55)
        for step, which in enumerate((0, 1, 2, 1, 0, 2, 1, 2)):
            guitar.play(at + step / 2, 0.9, notes[which] if step else bass(name, 43), 92 if step == 0 else 68)
        if kind != "I":
            low.play(at, 1.8, bass(name, 31), 98)
            low.play(at + 2, 1.3, bass(name, 31), 86)
            low.play(at + 3.5, 0.45, bass(name, 31) + 7, 76)
            drums.play(at, 0.2, KICK, 100)
            drums.play(at + 2.5, 0.2, KICK, 80)
            for beat in (1, 3):
                drums.play(at + beat, 0.2, RIM if kind == "V" else 38, 88)
            for step in range(8):
                drums.play(at + step / 2, 0.1, CLOSED_HAT, 72 if step % 2 == 0 else 56)
        if kind == "C":
            pad.chord(at, 3.95, chord(name, 62), 70)
        if kind in "VC" and bar % 2 == 0:
            for start, length, pitch in _CHORUS_LINE if kind == "C" else _VERSE_LINE:
                voice.play(at + start, length, pitch - (12 if bar % 4 == 0 else 14), 104)
    return Score("frost_song", "Kettle and Frost", "song, sung-like lead", 92, 4, len(_PLAN), (guitar, low, voice, pad, drums))
