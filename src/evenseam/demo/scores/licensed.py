"""The music of the catalogue stand-in: five short pieces in different styles and metres."""

from evenseam.demo.scores.score import (
    CLOSED_HAT, CRASH, DRUMS, KICK, OPEN_HAT, RIDE, RIM, SHAKER, SNARE, Part, Score, bass, chord,
)  # fmt: skip

_TOM_LOW, _TOM_MID = 41, 45


def slow_orbit() -> Score:
    """'Slow Orbit': a slow electronic pulse, 4/4 at 96, 33 bars."""
    changes, bars = ("Am7", "Fmaj7", "C", "G"), 33
    pulse, pad, low, drums = Part(0, 81, 66, 46), Part(1, 90, 84, 80), Part(2, 39, 108), Part(DRUMS, 0, 92)
    for bar in range(bars - 1):
        at, name = bar * 4.0, changes[bar // 2 % 4]
        notes = chord(name, 62)
        for step in range(16):
            pulse.play(
                at + step / 4, 0.2, notes[(0, 2, 1, 2)[step % 4]] + (12 if step % 8 == 6 else 0), 84 - 12 * (step % 4 > 0)
            )
        pad.chord(at, 3.95, chord(name, 55), 66)
        if bar >= 4:
            low.play(at, 1.4, bass(name, 28), 108)
            low.play(at + 2.5, 1.2, bass(name, 28), 88)
            for beat, drum in ((0, KICK), (1, SNARE), (2.5, KICK), (3, SNARE)):
                drums.play(at + beat, 0.2, drum, 104)
        if bar >= 8:
            for step in range(8):
                drums.play(at + step / 2, 0.1, CLOSED_HAT, 76 - 20 * (step % 2))
    _last((bars - 1) * 4.0, 3.5, ((pulse, [69]), (pad, chord("Am", 57)), (low, [33])), drums)
    return Score("slow_orbit", "Slow Orbit", "electronic, slow", 96, 4, bars, (pulse, pad, low, drums))


def bright_corners() -> Score:
    """'Bright Corners': plucked strings and claps, 4/4 at 132, 41 bars."""
    changes, bars = ("C", "G", "Am", "F"), 41
    pluck, bells, low, drums = Part(0, 45, 108, 46), Part(1, 9, 76, 82), Part(2, 32, 110), Part(DRUMS, 0, 92)
    for bar in range(bars - 1):
        at, name = bar * 4.0, changes[bar % 4]
        notes = chord(name, 60)
        for beat in range(4):
            low.play(at + beat, 0.5, bass(name, 36) + (7 if beat == 2 else 0), 104 if beat == 0 else 82)
            pluck.chord(at + beat + 0.5, 0.3, notes, 84)
        pluck.chord(at, 0.4, notes, 96)
        if bar >= 4:
            for beat, drum in ((0, KICK), (1, 39), (2, KICK), (3, 39)):
                drums.play(at + beat, 0.2, drum, 100)
            for step in range(8):
                drums.play(at + step / 2, 0.1, SHAKER, 80 - 24 * (step % 2))
        if bar >= 8 and bar % 2 == 0:
            for when, pitch in ((0, 84), (1, 83), (1.5, 79), (3, 81), (4, 79), (5, 76), (6, 79)):
                bells.play(at + when, 0.8, pitch, 88)
    _last((bars - 1) * 4.0, 1.5, ((pluck, chord("C", 60)), (bells, [84]), (low, [36])), drums)
    return Score("bright_corners", "Bright Corners", "plucked, cheerful", 132, 4, bars, (pluck, bells, low, drums))


def long_stair() -> Score:
    """'The Long Stair': a piano waltz with cello, 3/4 at 112, 45 bars."""
    changes, bars = ("Am", "Em", "F", "C", "Dm", "Am", "E7", "E7"), 45
    piano, cello = Part(0, 0, 104), Part(1, 42, 96, 78)
    for bar in range(bars - 1):
        at, name = bar * 3.0, changes[bar % 8]
        piano.play(at, 2.6, bass(name, 36), 98)
        for beat in (1, 2):
            piano.chord(at + beat, 0.7, chord(name, 57), 62)
        if bar >= 4 and bar % 2 == 0:
            for when, length, pitch in ((0, 2, 76), (2, 1, 74), (3, 1.5, 72), (4.5, 1.5, 71)):
                piano.play(at + when, length, pitch if bar % 4 == 0 else pitch - 3, 84)
        if bar >= 12:
            cello.play(at, 2.9, chord(name, 48)[0], 82)
    _last((bars - 1) * 3.0, 3.5, ((piano, [33, 57, 60, 64]), (cello, [45])), None)
    return Score("long_stair", "The Long Stair", "piano and cello, waltz", 112, 3, bars, (piano, cello))


def iron_lantern() -> Score:
    """'Iron Lantern': drums and low strings, 4/4 at 144, 49 bars."""
    changes, bars = ("Dm", "Dm", "Bb", "C"), 49
    strings, brass, drums = Part(0, 49, 108), Part(1, 61, 92), Part(DRUMS, 0, 116)
    for bar in range(bars - 1):
        at, name = bar * 4.0, changes[bar % 4]
        for beat in (0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5):
            strings.play(at + beat, 0.4, bass(name, 38), 108 if beat in (0, 2.5) else 78)
        for beat, drum in ((0, _TOM_LOW), (0.75, _TOM_MID), (1.5, _TOM_LOW), (2, _TOM_MID), (3, _TOM_MID), (3.5, _TOM_LOW)):
            drums.play(at + beat, 0.3, drum, 118 if beat == 0 else 90)
        drums.play(at, 0.2, KICK, 118)
        if bar >= 8 and bar % 4 == 0:
            drums.play(at, 1.0, CRASH, 100)
            brass.chord(at, 3.5, chord(name, 57), 96)
        if bar >= 16:
            brass.play(at + 2, 1.8, chord(name, 62)[bar % 3], 100)
    _last((bars - 1) * 4.0, 1.0, ((strings, [38, 50]), (brass, chord("Dm", 57))), drums)
    return Score("iron_lantern", "Iron Lantern", "drums, tense", 144, 4, bars, (strings, brass, drums))


def harbour_lights() -> Score:
    """'Harbour Lights': a slow swing for saxophone and trio, 4/4 at 112, 33 bars."""
    changes, bars = ("Ebmaj7", "Cm7", "Fm7", "Bb7"), 33
    low, piano, horn, drums = Part(0, 32, 112), Part(1, 0, 84, 50), Part(2, 66, 92, 76), Part(DRUMS, 0, 84)
    for bar in range(bars - 1):
        at, name = bar * 4.0, changes[bar % 4]
        start = bass(name, 33)
        for beat, step in enumerate((0, 7, 12, 7)):
            low.play(at + beat, 0.9, start + step - (12 if start + step > 50 else 0), 104 if beat == 0 else 84)
        piano.chord(at, 1.5, chord(name, 56), 74)
        piano.chord(at + 2.66, 0.4, chord(name, 56), 62)
        for beat in range(4):
            drums.play(at + beat, 0.2, RIDE, 80 if beat % 2 == 0 else 88)
            if beat % 2:
                drums.play(at + beat + 0.66, 0.2, RIDE, 64)
                drums.play(at + beat, 0.1, 44, 80)
        drums.play(at, 0.2, KICK, 88)
        if bar >= 4 and bar % 2 == 0:
            for when, length, pitch in (
                (0, 1.5, 70),
                (1.66, 0.3, 72),
                (2, 1.6, 75),
                (4, 0.6, 74),
                (4.66, 0.9, 70),
                (6, 1.5, 67),
            ):
                horn.play(at + when, length, pitch, 92)
        if bar % 8 == 7:
            drums.play(at + 3, 0.2, RIM, 84)
            drums.play(at + 3.66, 0.2, OPEN_HAT, 76)
    _last((bars - 1) * 4.0, 3.0, ((low, [39]), (piano, chord("Eb6", 56)), (horn, [75])), drums)
    return Score("harbour_lights", "Harbour Lights", "slow swing, saxophone", 112, 4, bars, (low, piano, horn, drums))


def _last(at: float, length: float, chords: tuple[tuple[Part, list[int]], ...], drums: Part | None) -> None:
    for part, pitches in chords:
        part.chord(at, length, pitches, 104)
    if drums is not None:
        drums.play(at, 0.3, KICK, 112)
        drums.play(at, 1.5, CRASH, 92)
