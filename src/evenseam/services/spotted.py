"""What a tempo has to meet on a picture: its hits, in seconds from its first frame."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Self

from evenseam.core.spot import Hit
from evenseam.core.tempo.steady import Struck
from evenseam.core.timebase import FrameRate
from evenseam.store.models import Picture
from evenseam.store.sheets import rate_of, sheet_of


@dataclass(frozen=True, slots=True)
class Spotted:
    """A picture and its hits in order of time. `start_frames`: the timecode of its first frame."""

    name: str
    rate: FrameRate
    start_frames: int
    length_frames: int
    hits: Sequence[Hit]

    @classmethod
    def of(cls, picture: Picture) -> Self:
        """What is spotted on a picture now."""
        hits = sorted(sheet_of(picture).hits, key=lambda hit: hit.at_frames)
        return cls(picture.name, rate_of(picture), picture.start_frames, picture.length_frames, hits)

    @property
    def length_s(self) -> float:
        """How long the picture is."""
        return self.seconds(self.length_frames)

    def seconds(self, frames: float) -> float:
        """When a frame begins."""
        return float(frames / self.rate.fps)

    def struck(self) -> list[Struck]:
        """The hits as moments that a beat has to meet."""
        return [
            Struck.by_kind(self.seconds(h.at_frames), self.seconds(max(0.5, h.tolerance_frames)), h.weight, h.kind, name)
            for h, name in zip(self.hits, self.names(), strict=True)
        ]

    def markers(self) -> list[tuple[float, str]]:
        """Seconds and name of each hit."""
        return [(self.seconds(hit.at_frames), name) for hit, name in zip(self.hits, self.names(), strict=True)]

    def names(self) -> list[str]:
        """What each hit is called."""
        return [hit.label or f"Hit {k}" for k, hit in enumerate(self.hits, 1)]


def click_name(name: str, early_s: int) -> str:
    """A click as a file, which says so where it starts earlier than the picture."""
    return f"{name} from {early_s} s before.wav" if early_s else f"{name}.wav"
