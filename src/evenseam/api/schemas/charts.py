"""Charts as they are used."""

from typing import Literal

from evenseam.api.schemas.base import Answer


class SectionRead(Answer):
    """A section, in samples. `role`: intro, break, build or ending, where it is one and the chart is asked for."""

    start_samples: int
    end_samples: int
    label: str
    role: str = ""


class ConfidenceRead(Answer):
    """How sure the chart is of its beats, the tempo, the metre and beat one, 0 to 1 each."""

    beat: float
    tempo: float
    meter: float
    bar: float


class LoopRead(Answer):
    """Whole bars that repeat well, in samples."""

    start_samples: int
    end_samples: int
    bars: int
    score: float


class MarkRead(Answer):
    """A span that fits keep, skip, or have no seam in."""

    kind: Literal["keep", "skip", "guard"]
    start_samples: int
    end_samples: int


class ChartRead(Answer):
    """The chart of a track as it is used, in samples at `rate`. In free time `beats` are breath points, each its own bar.

    `intensity`, `voice` and `lead` have one value a beat, 0 to 1. `corrected`: what a person set, by name. `pins`: bar
    lines that stay where they were put.
    """

    corrected: list[str]
    pins: list[int]
    marks: list[MarkRead]

    rate: int
    n_samples: int
    free_time: bool
    tempo_bpm: float
    other_tempo_bpm: float
    meter: str
    beats_per_bar: int
    key: str
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    confidence: ConfidenceRead
    music_start_samples: int
    music_end_samples: int
    trim_start_samples: int
    trim_end_samples: int
    opening_samples: int
    last_hit_samples: int
    ring_out_end_samples: int
    beats: list[int]
    beat_in_bar: list[int]
    intensity: list[float]
    voice: list[float]
    lead: list[float]
    sections: list[SectionRead]
    loops: list[LoopRead]
