"""The steady tempo of a picture on the command line: the table of tempi, and the best of them as MIDI and as a click."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from evenseam.asking import aim_of
from evenseam.core.exchange.tempo_midi import write_tempo_midi
from evenseam.core.plan import Aim
from evenseam.core.render.click import ClickStyle
from evenseam.core.render.click import write_click as clicked
from evenseam.core.tempo.steady import Steady, Struck, find_steady
from evenseam.core.timebase import FrameRate, parse_time

_RATE_HZ = 48_000  # of hits in words, and of the click
_AFTER_BARS = 2  # of click after the last hit


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is asked: hits in words, the range, the metre, and where bar one starts if that is set."""

    hits: tuple[str, ...]
    fps: str
    low_bpm: float
    high_bpm: float
    meter: int
    starts: str | None
    count: int

    @property
    def rate(self) -> FrameRate:
        """The picture's. Raises: RateUnreadableError."""
        return FrameRate.parse(self.fps)

    def aims(self) -> tuple[Aim, ...]:
        """The hits in order of time. Raises: BriefError, TimeUnreadableError."""
        return tuple(sorted((aim_of(text, self.rate, _RATE_HZ) for text in self.hits), key=lambda aim: aim.at_samples))

    def answers(self) -> tuple[Steady, ...]:
        """The tempi that meet them best. Raises: BriefError, TimeUnreadableError."""
        struck = [
            Struck.by_kind(aim.at_samples / _RATE_HZ, aim.tolerance_samples / _RATE_HZ, aim.weight, aim.kind)
            for aim in self.aims()
        ]
        starts_s = None if self.starts is None else float(parse_time(self.starts, self.rate))
        return find_steady(struck, self.low_bpm, self.high_bpm, self.meter, starts_s, self.count)


def reported(answers: Sequence[Steady], rate: FrameRate) -> list[dict[str, Any]]:
    """The answers for JSON; how far each hit is off in frames of the picture."""
    return [
        {
            "bpm": one.bpm,
            "starts_s": round(one.starts_s, 6),
            "also_bpm": list(one.also_bpm),
            "hits": [
                {"off_s": round(off, 6), "off_frames": round(float(off * rate.fps), 3), "bar": bar, "beat": beat, "met": met}
                for off, (bar, beat), met in zip(one.off_s, one.places, one.is_met, strict=True)
            ],
        }
        for one in answers
    ]


def in_a_table(answers: Sequence[Steady], rate: FrameRate) -> str:
    """The answers a line each."""
    lines = []
    for one in answers:
        met = f"{sum(one.is_met)} of {len(one.is_met)}"
        off = "  ".join(
            f"{bar}.{beat} {float(o * rate.fps):+.2f}{'' if met else ' missed'}"
            for o, (bar, beat), met in zip(one.off_s, one.places, one.is_met, strict=True)
        )
        also = f"  (also {', '.join(f'{bpm:g}' for bpm in one.also_bpm)})" if one.also_bpm else ""
        lines.append(f"{one.bpm:7.2f} bpm  bar one at {one.starts_s:.3f} s  met {met}  {off}{also}")
    return "\n".join(lines)


def write_midi(path: Path, answer: Steady, meter: int, aims: Sequence[Aim]) -> None:
    """The tempo map of an answer, with the hits as markers."""
    markers = tuple((aim.at_samples / _RATE_HZ, aim.label or f"Hit {k}") for k, aim in enumerate(aims, 1))
    path.write_bytes(write_tempo_midi(answer.bpm, meter, answer.starts_s, markers))


def write_click(
    path: Path, answer: Steady, meter: int, aims: Sequence[Aim], style: tuple[int, bool, int] = (0, True, 1)
) -> int:
    """A click from bar one to some bars after the last hit, to the sample, whose file starts with the picture.

    `style`: bars of count-in, whether downbeats are told apart, parts of a beat. Returns: by how many seconds the file starts
    earlier, for its count-in.
    """
    last_s = max(aim.at_samples for aim in aims) / _RATE_HZ + _AFTER_BARS * meter * 60 / answer.bpm
    return clicked(path, answer.bpm, meter, answer.starts_s, last_s, _RATE_HZ, ClickStyle(*style))
