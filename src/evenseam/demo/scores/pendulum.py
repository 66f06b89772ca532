"""'Pendulum': mallets and plucked strings, five to the bar at 150."""

from evenseam.demo.scores.score import DRUMS, KICK, RIM, SHAKER, Part, Score, bass, chord

_A = ("Dm", "Dm", "Bb", "C")
_B = ("F", "C", "Gm", "Dm")
_PLAN = "IIII" + "A" * 16 + "B" * 12 + "A" * 8 + "B" * 8 + "A" * 8 + "E"


def score() -> Score:
    """The piece, 57 bars, some 1:55."""
    wood, low, pluck, drums = Part(0, 12, 108, 44), Part(1, 32, 112), Part(2, 45, 92, 84), Part(DRUMS, 0, 96)
    for bar, kind in enumerate(_PLAN):
        at = bar * 5.0
        if kind == "E":
            for part, pitches in ((wood, [62, 69, 74]), (low, [38]), (pluck, chord("Dm", 62))):
                part.chord(at, 2.0, pitches, 108)
            drums.play(at, 0.3, KICK, 112)
            break
        name = (_B if kind == "B" else _A)[(bar - 4) % 4]
        notes = chord(name, 62)
        for step, which in enumerate((0, 1, 2, 1, 2, 0, 1, 0, 2, 1)):
            wood.play(at + step / 2, 0.4, notes[which] + (12 if step == 4 else 0), 100 if step in (0, 6) else 70)
        low.play(at, 2.6, bass(name, 38), 108)
        low.play(at + 3, 0.9, bass(name, 38), 92)
        low.play(at + 4, 0.9, bass(name, 38) + 7, 84)
        if kind != "I":
            drums.play(at, 0.2, KICK, 112)
            drums.play(at + 3, 0.2, RIM, 92)
            drums.play(at + 4, 0.2, RIM, 76)
            for beat in range(5):
                drums.play(at + beat, 0.1, SHAKER, 84 if beat in (0, 3) else 60)
        if kind == "B":
            pluck.chord(at, 2.0, chord(name, 69), 88)
            pluck.chord(at + 3, 1.0, chord(name, 69), 76)
    return Score("pendulum", "Pendulum", "mallets, five to the bar", 150, 5, len(_PLAN), (wood, low, pluck, drums), ring_s=3.0)
