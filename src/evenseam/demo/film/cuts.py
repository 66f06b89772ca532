"""How the open-night films are cut: which take shows when. Source frames count from each take's own first frame."""

from dataclasses import dataclass
from fractions import Fraction

from evenseam.core.spot import Hit, Line, Sheet, Shot
from evenseam.core.timebase import FrameRate

RATE = FrameRate(25)


@dataclass(frozen=True, slots=True)
class Take:
    """What was filmed: `reel` names it, `frames` is how much of it there is."""

    reel: str
    name: str
    frames: int


TAKES = {
    take.name: take
    for take in (
        Take("A001", "Dusk on the fell", 230),
        Take("A002", "Lantern path", 210),
        Take("A003", "The slit opens", 220),
        Take("A004", "Telescope turns", 210),
        Take("A005", "At the eyepiece", 160),
        Take("B001", "Stars drift", 220),
        Take("B002", "Moon", 180),
        Take("B003", "Pointing up", 170),
        Take("B004", "Spiral", 200),
        Take("B005", "Round the dome", 200),
        Take("B006", "Star trails", 210),
        Take("C001", "Title", 200),
    )
}

_Cut = tuple[tuple[str, int, int], ...]  # name of the take, first source frame, frames

_FILM: _Cut = (
    ("Dusk on the fell", 20, 176),
    ("Lantern path", 12, 148),
    ("The slit opens", 16, 172),
    ("Telescope turns", 20, 159),
    ("At the eyepiece", 10, 118),
    ("Stars drift", 8, 177),
    ("Moon", 14, 131),
    ("Pointing up", 12, 119),
    ("Spiral", 10, 150),
    ("Round the dome", 16, 137),
    ("Star trails", 12, 163),
    ("Title", 0, 150),
)
# The director's second thoughts: a shot gone, one moved, two trimmed, one longer, a new one.
_RECUT: _Cut = (
    ("Dusk on the fell", 20, 166),
    ("The slit opens", 16, 172),
    ("Lantern path", 12, 148),
    ("Telescope turns", 30, 149),
    ("Stars drift", 8, 189),
    ("Moon", 14, 131),
    ("Pointing up", 12, 119),
    ("Spiral", 10, 150),
    ("Round the dome", 16, 137),
    ("Star trails", 12, 163),
    ("Title", 0, 150),
)
_THIRTY: _Cut = (
    ("Dusk on the fell", 40, 95),
    ("The slit opens", 60, 110),
    ("Telescope turns", 40, 88),
    ("Stars drift", 30, 97),
    ("Spiral", 20, 110),
    ("Star trails", 40, 105),
    ("Title", 0, 145),
)
_FIFTEEN: _Cut = (
    ("The slit opens", 80, 75),
    ("Stars drift", 60, 70),
    ("Spiral", 40, 80),
    ("Title", 0, 150),
)

# What the scratch voice says in the film: first frame, words.
NARRATION = (
    (60, "Once a month, the hill goes dark on purpose."),
    (232, "Leave the lamps at the gate, and let your eyes get used to it."),
    (420, "At nine, the old dome opens."),
    (560, "Somebody has to turn the wheel."),
    (668, "Take your time. There is no hurry up here."),
    (800, "The light you see left home before anyone had a name for it."),
    (1010, "And the moon, of course."),
    (1100, "Ask anything."),
    (1236, "We will not know all of it either."),
    (1390, "Stay as long as you like."),
    (1664, "Harrow Fell. Open night. Bring a coat."),
)


@dataclass(frozen=True, slots=True)
class DemoFilm:
    """A film that ships: its file, its name, how it is cut, the timecode of its first frame, what the music has to meet."""

    slug: str
    title: str
    cut: _Cut
    start_frames: int
    has_sound: bool
    hits: tuple[Hit, ...] = ()

    @property
    def sheet(self) -> Sheet:
        """Its shots."""
        shots, at = [], 0
        for name, source, frames in self.cut:
            shots.append(Shot(at, at + frames, TAKES[name].reel, source, name))
            at += frames
        return Sheet(RATE, at, self.start_frames, tuple(shots))


FILM = DemoFilm(
    "open_night",
    "Open Night, film, 72 s",
    _FILM,
    0,
    True,
    hits=(Hit(324, "Dome opens", "beat", tolerance_frames=2), Hit(773, "Stars", weight="must"), Hit(1650, "Title")),
)
THIRTY = DemoFilm("open_night_30", "Open Night, spot, 30 s", _THIRTY, 10 * 3600 * 25, False)
FIFTEEN = DemoFilm("open_night_15", "Open Night, spot, 15 s", _FIFTEEN, 10 * 3600 * 25, False)
RECUT = DemoFilm("open_night_recut", "Open Night, film, recut", _RECUT, 0, False)
FILMS = (FILM, THIRTY, FIFTEEN, RECUT)


def narration_lines(lengths_s: tuple[Fraction, ...]) -> tuple[Line, ...]:
    """The lines of the scratch voice, given how long each takes to say."""
    ends = (start + -(-length * RATE.fps // 1) for (start, _), length in zip(NARRATION, lengths_s, strict=True))
    return tuple(Line(start, int(end), words) for (start, words), end in zip(NARRATION, ends, strict=True))
