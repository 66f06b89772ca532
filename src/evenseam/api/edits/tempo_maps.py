"""Changes of a tempo map: from what comes in to what is done, in words and as a function."""

from evenseam.api.schemas.tempo_maps import BendEdit, HoldEdit, LetGoEdit, MapEdit, MetreEdit, ShapeEdit, TempoEdit
from evenseam.core.errors import SpotError
from evenseam.core.tempo import by_hand
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.to_hits import bent_to
from evenseam.services.tempo_maps import Laid, MapEditing


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
