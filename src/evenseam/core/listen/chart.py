"""The chart: everything heard in a track, as a value, and its compact stored form.

Positions are integer samples at the track's own rate. Seconds appear only in `listen --json` and on screen.
"""

import io
import json
from dataclasses import asdict, dataclass
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import ListenError

CHART_VERSION = 1
IntArray = NDArray[np.int64]
FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Section:
    """A stretch of whole bars that hangs together; sections with the same label are alike."""

    start_samples: int
    end_samples: int
    label: str


@dataclass(frozen=True, slots=True)
class Span:
    """Whole bars that repeat well: going from `end_samples` back to `start_samples` is smooth (`score` 0 to 1)."""

    start_samples: int
    end_samples: int
    bars: int
    score: float


@dataclass(frozen=True, slots=True, eq=False)
class Chart:
    """What was heard. `beats`, `beat_in_bar` (0 is the downbeat) and `features` (beats, dimensions) run in parallel.

    `features[b]` describes the sound between beat b and the next one, scaled so that plain Euclidean distance between
    two rows says how different two beats sound.
    """

    rate: int
    n_samples: int
    meter: tuple[int, int]
    tempo_bpm: float
    key: str
    loudness_lufs: float
    beat_confidence: float
    bar_confidence: float
    music_start_samples: int
    music_end_samples: int
    last_hit_samples: int
    ring_out_end_samples: int
    beats: IntArray
    beat_in_bar: IntArray
    features: FloatArray
    sections: tuple[Section, ...]
    loops: tuple[Span, ...]

    def __post_init__(self) -> None:
        if not (self.beats.size == self.beat_in_bar.size == self.features.shape[0]):
            raise ListenError("The chart is damaged: its beats and features differ in number. Listen to the track again.")
        if self.beats.size and (np.any(np.diff(self.beats) <= 0) or self.beats[0] < 0 or self.beats[-1] >= self.n_samples):
            raise ListenError("The chart is damaged: its beats are out of order. Listen to the track again.")

    @property
    def downbeats(self) -> IntArray:
        """Samples of the first beat of each bar."""
        return self.beats[self.beat_in_bar == 0]

    def to_bytes(self) -> bytes:
        """Compact stored form: a compressed .npz with a JSON head."""
        head = {
            name: getattr(self, name)
            for name in self.__slots__
            if name not in ("beats", "beat_in_bar", "features", "sections", "loops")
        }
        head["sections"] = [asdict(s) for s in self.sections]
        head["loops"] = [asdict(s) for s in self.loops]
        out = io.BytesIO()
        np.savez_compressed(
            out,
            version=np.int64(CHART_VERSION),
            head=np.frombuffer(json.dumps(head).encode(), dtype=np.uint8),
            beats=self.beats,
            beat_in_bar=self.beat_in_bar.astype(np.int16),
            features=self.features.astype(np.float16),
        )
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Self:
        """Inverse of `to_bytes`. Raises: ListenError when the version is another one."""
        with np.load(io.BytesIO(data), allow_pickle=False) as stored:
            if int(stored["version"]) != CHART_VERSION:
                raise ListenError("The chart was made by another version. Listen to the track again.")
            head = json.loads(stored["head"].tobytes())
            arrays = {
                "beats": stored["beats"].astype(np.int64),
                "beat_in_bar": stored["beat_in_bar"].astype(np.int64),
                "features": stored["features"].astype(np.float32),
            }
        head["meter"] = tuple(head["meter"])
        head["sections"] = tuple(Section(**s) for s in head["sections"])
        head["loops"] = tuple(Span(**s) for s in head["loops"])
        return cls(**head, **arrays)

    def to_json(self, elapsed_s: float) -> dict[str, Any]:
        """The JSON of `evenseam listen --json`: seconds for people, the same as integer samples beside them."""
        s = self._seconds
        return {
            "duration_s": s(self.n_samples),
            "duration_samples": self.n_samples,
            "sample_rate": self.rate,
            "tempo_bpm": round(self.tempo_bpm, 3),
            "meter": list(self.meter),
            "key": self.key,
            "loudness_lufs": round(self.loudness_lufs, 2) if np.isfinite(self.loudness_lufs) else None,
            "confidence": {"beat": round(self.beat_confidence, 3), "bar": round(self.bar_confidence, 3)},
            "silence": {"head_s": s(self.music_start_samples), "tail_s": s(self.n_samples - self.music_end_samples)},
            "silence_samples": {"head": self.music_start_samples, "tail": self.n_samples - self.music_end_samples},
            "beats": [s(b) for b in self.beats],
            "beats_samples": [int(b) for b in self.beats],
            "downbeats": [s(b) for b in self.downbeats],
            "downbeats_samples": [int(b) for b in self.downbeats],
            "sections": [
                {
                    "start_s": s(x.start_samples),
                    "end_s": s(x.end_samples),
                    "label": x.label,
                    "start_samples": x.start_samples,
                    "end_samples": x.end_samples,
                }
                for x in self.sections
            ],
            "last_hit_s": s(self.last_hit_samples),
            "last_hit_samples": self.last_hit_samples,
            "ring_out_end_s": s(self.ring_out_end_samples),
            "ring_out_end_samples": self.ring_out_end_samples,
            "loops": [
                {
                    "start_s": s(x.start_samples),
                    "end_s": s(x.end_samples),
                    "bars": x.bars,
                    "score": round(x.score, 3),
                    "start_samples": x.start_samples,
                    "end_samples": x.end_samples,
                }
                for x in self.loops
            ],
            "elapsed_s": round(elapsed_s, 3),
        }

    def _seconds(self, samples: int) -> float:
        return round(int(samples) / self.rate, 6)
