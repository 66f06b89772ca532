"""What is asked for in words, on the command line and in the rows of a batch: lengths, hits, openings and marks."""

from collections.abc import Mapping, Sequence
from fractions import Fraction

from pydantic import BaseModel, ConfigDict

from evenseam.core.chart import Chart
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import BriefError
from evenseam.core.plan import DEFAULT_EARLY_PCT, DEFAULT_SILENCE_S, OPENINGS, Aim, Brief, OpeningKind
from evenseam.core.spot import HIT_KINDS, HitKind
from evenseam.core.timebase import FrameRate, parse_time, seconds_to_samples

_ANY_RATE_HZ = 48_000
_HALF_FRAME_S = Fraction(1, 50)  # where no picture rate is given


class Asked(BaseModel):
    """One fit as it is asked for in words: on the command line, or in a row of a batch. `to` and `hits` may be timecode."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    to: str
    fps: str | None = None
    hits: tuple[str, ...] = ()
    method: str = "blend"
    give: float | None = None
    hold: int | None = None
    max_seams: int | None = None
    early: float = DEFAULT_EARLY_PCT
    silence: float = DEFAULT_SILENCE_S
    opening: str | None = None
    keep: tuple[str, ...] = ()
    skip: tuple[str, ...] = ()
    guard: tuple[str, ...] = ()

    @property
    def frame_rate(self) -> FrameRate | None:
        """The picture's. Raises: RateUnreadableError."""
        return FrameRate.parse(self.fps) if self.fps else None

    def check(self) -> None:
        """What can be said before any sound is read. Raises: BriefError, TimeUnreadableError, RateUnreadableError."""
        self.brief(_ANY_RATE_HZ)

    def brief(self, rate_hz: int) -> Brief:
        """The brief for a track. Raises: BriefError, TimeUnreadableError."""
        return Brief(
            seconds_to_samples(parse_time(self.to, self.frame_rate), rate_hz),
            self.give,
            self.hold,
            self.max_seams,
            method=self.method,
            early_pct=self.early,
            silence_s=self.silence,
            aims=tuple(aim_of(text, self.frame_rate, rate_hz) for text in self.hits),
            opening=opening_of(self.opening),
        )

    def marks(self, chart: Chart) -> tuple[TrackMark, ...]:
        """The marks of its track. Raises: BriefError, TimeUnreadableError."""
        return marks_of({"keep": self.keep, "skip": self.skip, "guard": self.guard}, chart)


def aim_of(text: str, frame_rate: FrameRate | None, rate_hz: int) -> Aim:
    """A hit from TIME[,kind][,frames], or a silence from TIME-TIME,silence. Raises: BriefError, TimeUnreadableError."""
    time, *more = (part.strip() for part in text.split(","))
    kinds = [part.replace("-", "_") for part in more if not _is_number(part)]
    frames = [Fraction(part) for part in more if _is_number(part)]
    if len(kinds) > 1 or len(frames) > 1 or any(kind not in HIT_KINDS for kind in kinds):
        raise BriefError(f"'{text}' is no hit. Write TIME,kind,frames: 12.5,beat,2; kinds are {', '.join(HIT_KINDS)}.")
    kind: HitKind = next((k for k in HIT_KINDS if k in kinds), "downbeat")
    begins, dash, ends = time.partition("-")
    if bool(dash) != (kind == "silence"):
        raise BriefError(f"'{text}': a silence has two times, 0:12-0:14.5,silence, and only a silence has.")
    frame_s = 1 / frame_rate.fps if frame_rate else 2 * _HALF_FRAME_S
    tolerance_s = max(frame_s / 2, frames[0] * frame_s if frames else Fraction(0))
    at, tolerance = seconds_to_samples(parse_time(begins, frame_rate), rate_hz), seconds_to_samples(tolerance_s, rate_hz)
    return Aim(at, kind, "must", tolerance, seconds_to_samples(parse_time(ends, frame_rate), rate_hz) if dash else None)


def opening_of(text: str | None) -> OpeningKind | None:
    """How a fit is to begin. Raises: BriefError."""
    if text is not None and text not in OPENINGS:
        raise BriefError(f"'{text}' is no opening; use {', '.join(OPENINGS)}, or leave it out.")
    return next((kind for kind in OPENINGS if kind == text), None)


def marks_of(spans: Mapping[str, Sequence[str] | None], chart: Chart) -> tuple[TrackMark, ...]:
    """Marks from TIME-TIME by kind. Raises: BriefError, TimeUnreadableError."""
    return tuple(_mark(kind, text, chart.rate) for kind, texts in spans.items() for text in texts or ())


def _mark(kind: str, text: str, rate_hz: int) -> TrackMark:
    start, dash, end = text.partition("-")
    if not dash:
        raise BriefError(f"'{text}' is no stretch of the track. Write two times: 0:12-0:20.")
    return TrackMark(kind, *(seconds_to_samples(parse_time(t.strip(), None), rate_hz) for t in (start, end)))  # type: ignore[arg-type]


def _is_number(text: str) -> bool:
    return text.replace(".", "", 1).isdigit()
