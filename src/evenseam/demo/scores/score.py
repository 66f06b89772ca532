"""A score: notes placed in beats, a steady tempo, and from it the true beats and bars of the recording."""

from dataclasses import dataclass, field

DRUMS = 9
KICK, SNARE, RIM, CLOSED_HAT, OPEN_HAT, CRASH, RIDE, SHAKER = 36, 38, 37, 42, 46, 49, 51, 70

_STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_CHORDS = {
    "": (0, 4, 7), "m": (0, 3, 7), "7": (0, 4, 7, 10), "m7": (0, 3, 7, 10), "maj7": (0, 4, 7, 11), "sus": (0, 5, 7),
    "6": (0, 4, 7, 9), "9": (0, 4, 10, 14), "dim": (0, 3, 6),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Note:
    """A note at `beat` (from 0), `length` beats long."""

    beat: float
    length: float
    pitch: int
    velocity: int


@dataclass(slots=True)
class Part:
    """Notes of one instrument (General MIDI program; channel 9 is drums), or of a sung-like voice."""

    channel: int
    program: int
    volume: int = 100
    pan: int = 64
    notes: list[Note] = field(default_factory=list)
    is_sung: bool = False

    def play(self, beat: float, length: float, pitch: int, velocity: int = 90) -> None:
        """Add one note."""
        self.notes.append(Note(beat, length, pitch, velocity))

    def chord(self, beat: float, length: float, pitches: list[int], velocity: int = 80) -> None:
        """Add notes that sound together."""
        for pitch in pitches:
            self.play(beat, length, pitch, velocity)


@dataclass(frozen=True, slots=True)
class Score:
    """A piece: `slug` names its file. `lead_in_s` of silence comes before beat 0; `ring_s` after the last note.

    `is_compound`: beats are dotted quarters, so two of them are written 6/8. `is_free`: there is no beat; places are in
    seconds. `count_in_bars` come before the music. `noise_db` (dBFS RMS), if any, sounds throughout, for
    `noise_tail_s` alone.
    """

    slug: str
    title: str
    style: str
    tempo_bpm: float
    beats_per_bar: int
    bars: int
    parts: tuple[Part, ...]
    lead_in_s: float = 0.05
    ring_s: float = 4.0
    is_compound: bool = False
    is_free: bool = False
    count_in_bars: int = 0
    noise_db: float | None = None
    noise_tail_s: float = 0.0

    @property
    def meter(self) -> str:
        """The metre as written."""
        return f"{3 * self.beats_per_bar}/8" if self.is_compound else f"{self.beats_per_bar}/4"

    def second(self, beat: float) -> float:
        """When a beat sounds, in seconds."""
        return self.lead_in_s + beat * 60 / self.tempo_bpm

    def beats_s(self) -> list[float]:
        """True beats in seconds, those of a count-in too; none in free time."""
        return [] if self.is_free else [self.second(b) for b in range(self.bars * self.beats_per_bar)]

    def downbeats_s(self) -> list[float]:
        """True downbeats in seconds."""
        return self.beats_s()[:: self.beats_per_bar]

    def music_start_s(self) -> float:
        """Where the music starts, after a count-in."""
        return self.second(self.count_in_bars * self.beats_per_bar)

    def last_hit_s(self) -> float:
        """When the last note is struck."""
        return self.second(max(n.beat for p in self.parts for n in p.notes))


def root(name: str) -> int:
    """Pitch class of a chord's root: 'F#m7' gives 6."""
    return (_STEPS[name[0]] + (name[1:2] == "#") - (name[1:2] == "b")) % 12


def chord(name: str, low: int) -> list[int]:
    """Pitches of a chord such as 'F#m7', each put into the octave from `low` up."""
    kind = name[2:] if name[1:2] in ("#", "b") else name[1:]
    return sorted(low + (root(name) + step - low) % 12 for step in _CHORDS[kind])


def bass(name: str, low: int = 36) -> int:
    """The root of a chord in the octave from `low` up."""
    return low + (root(name) - low) % 12
