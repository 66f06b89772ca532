"""The chart: everything heard in a track, as a value, and its compact stored form.

Positions are integer samples at the track's own rate. Seconds appear only in `listen --json` and on screen.
"""

import io
import json
from dataclasses import asdict, dataclass, fields
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import ListenError

CHART_VERSION = 12
VOICE_FROM = 0.5  # a beat with at least this likelihood of a voice counts as sung or spoken
IntArray = NDArray[np.int64]
FloatArray = NDArray[np.float32]
_ARRAYS = {"beats": np.int64, "beat_in_bar": np.int16, "features": np.float16, "beat_sure": np.float16,
           "intensity": np.float16, "voice": np.float16, "lead": np.float16, "rings": np.float16,
           "pitches": np.float16}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Section:
    """A stretch of whole bars that hangs together; sections that come again have the letter that they had."""

    start_samples: int
    end_samples: int
    label: str


@dataclass(frozen=True, slots=True)
class Loop:
    """Whole bars that repeat well: going from `end_samples` back to `start_samples` is smooth (`score` 0 to 1)."""

    start_samples: int
    end_samples: int
    bars: int
    score: float


@dataclass(frozen=True, slots=True)
class Confidence:
    """How sure the chart is, 0 to 1 each: of its beats (half or double tempo forgiven), the tempo, the metre, and beat one.

    Cautiously so: of charts that give beat one 0.7 or more, at most one in twenty has its beats or bars wrong.
    """

    beat: float
    tempo: float
    meter: float
    bar: float


@dataclass(frozen=True, slots=True, eq=False)
class Chart:
    """What was heard. The arrays of one entry a beat run in parallel.

    `beats`: samples; `beat_in_bar`: 0 is the downbeat; `features` (beats, dimensions): the sound between a beat and the
    next one, scaled so that plain Euclidean distance between two rows says how different two beats sound; `beat_sure`:
    how clearly it is a beat; `intensity`: how full the music is there; `voice` and `lead`: how likely a voice, or any
    lead, sounds over it; all 0 to 1. `rings` (beats, 36): how many notes are held across the beat, as is to be expected, by
    register (below C3, to E4, above) and pitch class (C first); `pitches` (beats, 12): how likely each pitch class sounds
    between the beat and the next one.

    In free time (`free_time`) there are no bars: each "beat" is a breath point where a phrase may end, and each is its
    own bar. `meter` is as written: (6, 8) has two beats to the bar, felt as dotted quarters. `other_tempo_bpm`: half or twice
    the tempo, where somebody might as well count that; else 0.
    """

    rate: int
    n_samples: int
    free_time: bool
    meter: tuple[int, int]
    tempo_bpm: float
    other_tempo_bpm: float
    key: str
    loudness_lufs: float
    true_peak_dbtp: float
    confidence: Confidence
    music_start_samples: int
    music_end_samples: int
    trim_start_samples: int
    trim_end_samples: int
    opening_samples: int
    last_hit_samples: int
    ring_out_end_samples: int
    beats: IntArray
    beat_in_bar: IntArray
    features: FloatArray
    beat_sure: FloatArray
    intensity: FloatArray
    voice: FloatArray
    lead: FloatArray
    rings: FloatArray
    pitches: FloatArray
    sections: tuple[Section, ...]
    loops: tuple[Loop, ...]

    def __post_init__(self) -> None:
        if any(getattr(self, name).shape[0] != self.beats.size for name in _ARRAYS):
            raise ListenError("The chart is damaged: its beats and features differ in number. Listen to the track again.")
        if self.beats.size and (np.any(np.diff(self.beats) <= 0) or self.beats[0] < 0 or self.beats[-1] >= self.n_samples):
            raise ListenError("The chart is damaged: its beats are out of order. Listen to the track again.")

    @property
    def downbeats(self) -> IntArray:
        """Samples of the first beat of each bar."""
        return self.beats[self.beat_in_bar == 0]

    @property
    def beats_per_bar(self) -> int:
        """Beats to the bar as felt: dotted quarters in compound metres, one in free time."""
        if self.free_time:
            return 1
        return self.meter[0] // 3 if self.meter[1] == 8 else self.meter[0]

    def nearest_bar(self, at_samples: int) -> int:
        """The bar line nearest to a place, or the place itself where there are none."""
        downbeats = self.downbeats
        return int(downbeats[np.abs(downbeats - at_samples).argmin()]) if downbeats.size else at_samples

    def to_bytes(self) -> bytes:
        """Compact stored form: a compressed .npz with a JSON head."""
        head = {
            f.name: getattr(self, f.name) for f in fields(self) if f.name not in (*_ARRAYS, "sections", "loops", "confidence")
        }
        head |= {"confidence": asdict(self.confidence), "sections": [asdict(s) for s in self.sections]}
        head["loops"] = [asdict(s) for s in self.loops]
        out = io.BytesIO()
        np.savez_compressed(
            out,
            version=np.int64(CHART_VERSION),
            head=np.frombuffer(json.dumps(head).encode(), dtype=np.uint8),
            **{name: getattr(self, name).astype(kind) for name, kind in _ARRAYS.items()},
        )
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Self:
        """Inverse of `to_bytes`. Raises: ListenError when the version is another one."""
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            if int(stored["version"]) != CHART_VERSION:
                raise ListenError("The chart was made by another version. Listen to the track again.")
            head = json.loads(stored["head"].tobytes())
            whole = ("beats", "beat_in_bar")
            arrays = {name: stored[name].astype(np.int64 if name in whole else np.float32) for name in _ARRAYS}
        head["meter"] = tuple(head["meter"])
        head["confidence"] = Confidence(**head["confidence"])
        head["sections"] = tuple(Section(**s) for s in head["sections"])
        head["loops"] = tuple(Loop(**s) for s in head["loops"])
        return cls(**head, **arrays)

    def to_json(self, elapsed_s: float) -> dict[str, Any]:
        """The JSON of `evenseam listen --json`: seconds for people, the same as integer samples beside them.

        In free time `beats` and `downbeats` are empty and `breaths` holds the breath points.
        """
        measured = self.beats[:0] if self.free_time else self.beats
        out: dict[str, Any] = {
            "sample_rate": self.rate,
            "tempo_bpm": round(self.tempo_bpm, 3),
            "other_tempo_bpm": round(self.other_tempo_bpm, 3),
            "meter": list(self.meter),
            "free_time": self.free_time,
            "key": self.key,
            "loudness_lufs": finite(self.loudness_lufs),
            "true_peak_dbtp": finite(self.true_peak_dbtp),
            "confidence": {name: round(value, 3) for name, value in asdict(self.confidence).items()},
            "sections": [self._in_both(x, label=x.label) for x in self.sections],
            "loops": [self._in_both(x, bars=x.bars, score=round(x.score, 3)) for x in self.loops],
            "bars": self._bars(),
            "voice": [round(float(v), 2) for v in self.voice],
            "lead": [round(float(v), 2) for v in self.lead],
            "rings": [round(float(v), 2) for v in self.rings.sum(axis=1)],
            "elapsed_s": round(elapsed_s, 3),
        }
        for name, at in {
            "duration": self.n_samples,
            "opening": self.opening_samples,
            "last_hit": self.last_hit_samples,
            "ring_out_start": self.last_hit_samples,
            "ring_out_end": self.ring_out_end_samples,
        }.items():
            out |= {f"{name}_s": self._seconds(at), f"{name}_samples": at}
        for name, head, tail in (
            ("silence", self.music_start_samples, self.music_end_samples),
            ("suggested_trim", self.trim_start_samples, self.trim_end_samples),
        ):
            out[name] = {"head_s": self._seconds(head), "tail_s": self._seconds(self.n_samples - tail)}
            out[f"{name}_samples"] = {"head": head, "tail": self.n_samples - tail}
        places = {"beats": measured, "downbeats": self.downbeats if measured.size else measured}
        places["breaths"] = self.beats if self.free_time else self.beats[:0]
        for name, array in places.items():
            out |= {name: [self._seconds(b) for b in array], f"{name}_samples": array.tolist()}
        return out

    def _bars(self) -> list[dict[str, float]]:
        starts = np.flatnonzero(self.beat_in_bar == 0)
        if not starts.size:
            return []
        counts = np.diff(np.append(starts, self.beats.size))
        mean = np.add.reduceat(self.intensity[starts[0] :], starts - starts[0]) / counts
        return [
            {"start_s": self._seconds(self.beats[k]), "intensity": round(float(v), 3)}
            for k, v in zip(starts, mean, strict=True)
        ]

    def _in_both(self, part: Section | Loop, **more: Any) -> dict[str, Any]:
        return {
            "start_s": self._seconds(part.start_samples),
            "end_s": self._seconds(part.end_samples),
            **more,
            "start_samples": part.start_samples,
            "end_samples": part.end_samples,
        }

    def _seconds(self, samples: int) -> float:
        return round(int(samples) / self.rate, 6)


def finite(value: float) -> float | None:
    """A level to two places, or None for the level of silence."""
    return round(value, 2) if np.isfinite(value) else None


def meter_name(chart: Chart) -> str:
    """The metre as written, or "free"."""
    return "free" if chart.free_time else f"{chart.meter[0]}/{chart.meter[1]}"
