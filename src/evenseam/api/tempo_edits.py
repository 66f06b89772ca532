"""Tempo maps as they go out, and the steps in which they are changed. Bars and beats are counted from 1, from bar one."""

from dataclasses import asdict
from typing import Annotated, Literal

from pydantic import Field

from evenseam.api.base import MOST_FRAMES, Answer, Input
from evenseam.api.routers.tempo import MetRead
from evenseam.core.errors import SpotError
from evenseam.core.tempo import by_hand
from evenseam.core.tempo.steady import FASTEST_BPM, SLOWEST_BPM
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.to_hits import MOST_PCT, bent_to
from evenseam.services.tempo_maps import Laid, MapEditing

_MOST_BARS = 100_000
_Bar = Annotated[int, Field(ge=1, le=_MOST_BARS)]
_Bars = Annotated[int | None, Field(ge=1, le=_MOST_BARS)]
_Beat = Annotated[int, Field(ge=1, le=64)]


class MetreRead(Answer):
    """The metre from a bar on."""

    bar: int
    numerator: int
    denominator: int


class HeldRead(Answer):
    """A beat that is held to its moment: its number from 0, and the hit that it meets."""

    beat: int
    hit_id: int | None


class BeatChoiceRead(Answer):
    """A beat that may meet a hit; the tempo it needs since what is held before it, and until what is held next, if that is."""

    bar: int
    beat: int
    before_bpm: float
    after_bpm: float | None


class MapHitRead(MetRead):
    """The same of a tempo map, with the beats that may meet the hit."""

    choices: list[BeatChoiceRead]


class TempoMapRead(Answer):
    """The beats of a picture's tempo map up to its end and one more, and where its hits lie.

    `beat_in_bar`: 0 for the first of a bar; `bpm`: from each beat on.
    """

    at_s: list[float]
    beat_in_bar: list[int]
    bpm: list[float]
    metres: list[MetreRead]
    held: list[HeldRead]
    hits: list[MapHitRead]


class MetreEdit(Input):
    """Another metre from a bar on; `bars`: for how many, null to the end."""

    edit: Literal["metre"]
    bar: _Bar
    numerator: int = Field(ge=1, le=32)
    denominator: Literal[2, 4, 8, 16]
    bars: _Bars = None


class TempoEdit(Input):
    """Another tempo from a bar on; `bars`: for how many, null to the end."""

    edit: Literal["tempo"]
    bar: _Bar
    bpm: float = Field(ge=SLOWEST_BPM, le=FASTEST_BPM, strict=False)
    bars: _Bars = None


class HoldEdit(Input):
    """A beat held to a frame of the picture."""

    edit: Literal["hold"]
    bar: _Bar
    beat: _Beat = 1
    at_frames: int = Field(ge=0, le=MOST_FRAMES)


class LetGoEdit(Input):
    """A beat that is held no more."""

    edit: Literal["let_go"]
    bar: _Bar
    beat: _Beat = 1


class ShapeEdit(Input):
    """One tempo from each held beat to the next, or a smooth curve through them."""

    edit: Literal["shape"]
    smooth: bool


class BendEdit(Input):
    """Beats brought to the hits, nowhere by more than `most_pct` faster or slower than the map is now."""

    edit: Literal["bend"]
    most_pct: float = Field(ge=0.1, le=MOST_PCT, strict=False)
    smooth: bool = False


MapEdit = MetreEdit | TempoEdit | HoldEdit | LetGoEdit | ShapeEdit | BendEdit


def map_read(laid: Laid) -> TempoMapRead:
    """A map as it goes out."""
    fps = float(laid.seen.rate.fps)
    hits = [
        MapHitRead(
            hit_id=hit.id,
            off_frames=place.off_s * fps,
            bar=place.bar,
            beat=place.beat,
            is_met=is_met,
            choices=[BeatChoiceRead(**asdict(choice)) for choice in choices],
        )
        for hit, (place, is_met), choices in zip(laid.seen.hits, laid.places(), laid.choices(), strict=True)
    ]
    return TempoMapRead(
        at_s=laid.beats.at_s.round(6).tolist(),
        beat_in_bar=laid.beats.beat_in_bar.tolist(),
        bpm=laid.beats.bpm.round(4).tolist(),
        metres=[MetreRead(bar=bar, numerator=n, denominator=d) for bar, n, d in laid.metres()],
        held=[HeldRead(beat=beat, hit_id=hit_id) for beat, hit_id in laid.held()],
        hits=hits,
    )


def map_editing_of(wanted: MapEdit) -> tuple[str, MapEditing]:
    """What a change does, in words for undo, and the change itself."""
    match wanted:
        case MetreEdit():
            numerator, denominator = wanted.numerator, wanted.denominator
            words = f"{numerator}/{denominator} {_from(wanted)}"
            return words, lambda on: by_hand.with_metre(_seen(on, wanted.bar), wanted.bar, numerator, denominator, wanted.bars)
        case TempoEdit():
            words = f"{wanted.bpm:g} bpm {_from(wanted)}"
            return words, lambda on: by_hand.with_tempo(_seen(on, wanted.bar), wanted.bar, wanted.bpm, wanted.bars)
        case HoldEdit():
            return f"holding bar {wanted.bar}", lambda on: _held(on, wanted)
        case LetGoEdit():
            return f"letting go of bar {wanted.bar}", lambda on: by_hand.let_go(on.tempo_map, wanted.bar, wanted.beat)
        case ShapeEdit():
            words = "smoothing the tempo" if wanted.smooth else "evening the tempo"
            return words, lambda on: by_hand.shaped(on.tempo_map, wanted.smooth)
        case BendEdit():
            most = wanted.most_pct
            return "bending the tempo", lambda on: bent_to(on.tempo_map, on.seen.struck(), most, wanted.smooth)


def _from(wanted: MetreEdit | TempoEdit) -> str:
    if wanted.bars is None:
        return f"from bar {wanted.bar}"
    return f"in bar {wanted.bar}" if wanted.bars == 1 else f"in bars {wanted.bar} to {wanted.bar + wanted.bars - 1}"


def _seen(on: Laid, bar: int) -> TempoMap:
    """The map, if the bar lies on the picture. Raises: SpotError."""
    count = int((on.beats.at_s[on.beats.bars()] < on.seen.length_s).sum())
    if bar > count:
        raise SpotError(f"There is no bar {bar} on this picture: its last one is bar {count}.", last_bar=count)
    return on.tempo_map


def _held(on: Laid, wanted: HoldEdit) -> TempoMap:
    if wanted.at_frames > on.seen.length_frames:
        raise SpotError("A bar is held to a frame of the picture. This one lies after its end.")
    return by_hand.with_beat_at(on.tempo_map, wanted.bar, wanted.beat, on.seen.seconds(wanted.at_frames))
