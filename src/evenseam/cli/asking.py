"""What is asked for in words, on the command line and in the rows of a batch: lengths, hits, shape and marks."""

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, create_model

from evenseam.core.chart import Chart
from evenseam.core.chart.corrections import TrackMark
from evenseam.core.errors import BriefError
from evenseam.core.plan import ASKS, RESPECTS, Aim, Brief, LandingAsked, Listening, Wish
from evenseam.core.plan.asks import Declared
from evenseam.core.spot import HIT_KINDS, HitKind
from evenseam.core.timebase import FrameRate, parse_time, seconds_to_samples

_ANY_RATE_HZ = 48_000
_QUICK_S = 300
_USUAL_FADE_S: float = ASKS["fade_s"].default
_HALF_FRAME_S = Fraction(1, 50)  # where no picture rate is given


_IN_OTHER_WORDS = ("landing", "fade_s")  # here one option says both, and where the last hit is to fall
OPTIONS = {re.sub("_(pct|bars|s)$", "", field): field for field in ASKS if field not in _IN_OTHER_WORDS}


def _plainly(one: Declared) -> tuple[Any, Any]:
    """A field as it is typed: words are looked at by the brief, which says what they may be."""
    more = ", ".join(filter(None, (one.ask.range_in_words, ", ".join(word for word, _ in one.ask.choices), one.ask.usual)))
    kind = type(one.default) if one.default is not None and not one.ask.choices else str | None if one.ask.choices else one.kind
    return kind, Field(one.default, description=f"{one.ask.words}{f' ({more})' if more else ''}.")


class Typed(BaseModel):
    """Base of what is typed."""

    model_config = ConfigDict(extra="forbid", frozen=True)


_typed: dict[str, Any] = {option: _plainly(ASKS[field]) for option, field in OPTIONS.items()}
_Plain: Any = create_model("Plain", __base__=Typed, **_typed)


class Asked(_Plain):
    """One fit as it is asked for in words: on the command line, or in a row of a batch. `to` and `hits` may be timecode."""

    to: str = Field(description="Length: seconds, m:ss.mmm, or timecode with --fps.")
    fps: str | None = Field(None, description="Picture rate, for timecode: 25, 29.97df, 30000/1001.")
    hits: tuple[str, ...] = Field(
        (), description="TIME[,kind][,frames]: downbeat, beat, section, last-hit; TIME-TIME,silence; again for each."
    )
    landing: str = Field("ring-out", description="ring-out; fade or fade,SECONDS; last-hit,TIME.")
    shape: tuple[str, ...] = Field(
        (), description="TIME-TIME,level[-level]: how full the music is to be, 0 to 1; again for each."
    )
    listen: tuple[str, ...] = Field((), description=f"{', '.join(RESPECTS)}=0..3: what counts at a seam.")
    keep: tuple[str, ...] = Field((), description="TIME-TIME of the track that must be heard; may be given again.")
    skip: tuple[str, ...] = Field((), description="TIME-TIME that must not be heard.")
    guard: tuple[str, ...] = Field((), description="TIME-TIME that no seam may lie in.")

    @property
    def frame_rate(self) -> FrameRate | None:
        """The picture's. Raises: RateUnreadableError."""
        return FrameRate.parse(self.fps) if self.fps else None

    @property
    def is_quick(self) -> bool:
        """Whether it is planned in less time than a compiler takes to start: a plain length of some minutes."""
        is_plain = not (
            self.hits or self.shape or self.landing.startswith("last-hit") or self.brief(_ANY_RATE_HZ).max_seams is not None
        )
        return is_plain and parse_time(self.to, self.frame_rate) <= _QUICK_S

    def check(self) -> None:
        """What can be said before any sound is read. Raises: BriefError, TimeUnreadableError, RateUnreadableError."""
        self.brief(_ANY_RATE_HZ)

    def brief(self, rate_hz: int) -> Brief:
        """The brief for a track. Raises: BriefError, TimeUnreadableError."""
        landing, fade_s, last_hit = landing_of(self.landing, self.frame_rate, rate_hz)
        return Brief(
            seconds_to_samples(parse_time(self.to, self.frame_rate), rate_hz),
            **{field: getattr(self, option) for option, field in OPTIONS.items()},
            aims=(*(aim_of(text, self.frame_rate, rate_hz) for text in self.hits), *last_hit),
            landing=landing,
            fade_s=fade_s,
            shape=tuple(wish_of(text, self.frame_rate, rate_hz) for text in self.shape),
            listening=listening_of(self.listen),
        )

    def marks(self, chart: Chart) -> tuple[TrackMark, ...]:
        """The marks of its track. Raises: BriefError, TimeUnreadableError."""
        return marks_of({"keep": self.keep, "skip": self.skip, "guard": self.guard}, chart)


def aim_of(text: str, frame_rate: FrameRate | None, rate_hz: int) -> Aim:
    """A hit from TIME[,kind][,frames][,@TIME], or a silence from TIME-TIME,silence. Raises: BriefError, TimeUnreadableError.

    After an @ the time on the track of the beat that alone is to meet it.
    """
    time, *said = (part.strip() for part in text.split(","))
    pins = [seconds_to_samples(parse_time(part[1:], None), rate_hz) for part in said if part.startswith("@")]
    more = [part for part in said if not part.startswith("@")]
    kinds = [part.replace("-", "_") for part in more if not _is_number(part)]
    frames = [Fraction(part) for part in more if _is_number(part)]
    if max(len(kinds), len(frames), len(pins)) > 1 or any(kind not in HIT_KINDS for kind in kinds):
        words = f"'{text}' is no hit. Write TIME,kind,frames: 12.5,beat,2; kinds are {', '.join(HIT_KINDS)}"
        raise BriefError(f"{words}. A bar of the track is pinned to it by its time: 12.5,@20.3.")
    kind: HitKind = next((k for k in HIT_KINDS if k in kinds), "downbeat")
    begins, dash, ends = time.partition("-")
    if bool(dash) != (kind == "silence"):
        raise BriefError(f"'{text}': a silence has two times, 0:12-0:14.5,silence, and only a silence has.")
    frame_s = 1 / frame_rate.fps if frame_rate else 2 * _HALF_FRAME_S
    tolerance_s = max(frame_s / 2, frames[0] * frame_s if frames else Fraction(0))
    at, tolerance = seconds_to_samples(parse_time(begins, frame_rate), rate_hz), seconds_to_samples(tolerance_s, rate_hz)
    until = seconds_to_samples(parse_time(ends, frame_rate), rate_hz) if dash else None
    return Aim(at, kind, "must", tolerance, until, pinned_samples=pins[0] if pins else None)


def landing_of(text: str, frame_rate: FrameRate | None, rate_hz: int) -> tuple[LandingAsked, float, tuple[Aim, ...]]:
    """How a fit is to end: kind, seconds of a fade, and where its last hit is to fall, if it is to.

    From ring-out, fade, fade,SECONDS, or last-hit,TIME. Raises: BriefError, TimeUnreadableError.
    """
    kind, comma, more = (part.strip() for part in text.partition(","))
    if kind == "last-hit" and comma:
        return "ring_out", _USUAL_FADE_S, (aim_of(f"{more},last-hit", frame_rate, rate_hz),)
    if kind == "fade" and (not comma or _is_number(more)):
        return "fade", float(more) if comma else _USUAL_FADE_S, ()
    if text == "ring-out":
        return "ring_out", _USUAL_FADE_S, ()
    raise BriefError(f"'{text}' is no landing; use ring-out, fade, fade,6 (seconds), or last-hit,0:58.5.")


def wish_of(text: str, frame_rate: FrameRate | None, rate_hz: int) -> Wish:
    """How full the music is to be, from TIME-TIME,level or TIME-TIME,level-level. Raises: BriefError, TimeUnreadableError."""
    span, _, levels = (part.strip() for part in text.partition(","))
    start, dash, end = span.partition("-")
    first, _, last = levels.partition("-")
    if not dash or not _is_number(first) or not _is_number(last or first):
        raise BriefError(f"'{text}' is no wish. Write TIME-TIME,level, with levels 0 to 1: 0:12-0:20,0.2 or 0:20-0:30,0.2-1.")
    at, until = (seconds_to_samples(parse_time(time.strip(), frame_rate), rate_hz) for time in (start, end))
    return Wish(at, until, float(first), float(last or first))


def listening_of(texts: Sequence[str]) -> Listening:
    """What to listen for, from respect=weight. Raises: BriefError."""
    weights = dict[str, float]()
    for text in texts:
        respect, _, weight = (part.strip() for part in text.partition("="))
        if respect not in RESPECTS or not _is_number(weight):
            raise BriefError(f"'{text}' is nothing to listen for. Write harmony=2; there are {', '.join(RESPECTS)}.")
        weights[respect] = float(weight)
    return Listening(**weights)


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
