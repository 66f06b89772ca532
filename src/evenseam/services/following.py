"""A cue that follows a tempo map: that of its picture, or one that comes back as MIDI. Its track is bent to it."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import BriefError
from evenseam.core.exchange.tempi.tempo_read import read_tempo_midi
from evenseam.core.plan.follow import followed
from evenseam.core.timebase import FLICKS_PER_S, seconds_to_flicks
from evenseam.services.context import Context
from evenseam.services.cues import change_cue
from evenseam.services.tempo_maps import map_of
from evenseam.store.models import Cue
from evenseam.store.sheets import rate_of

_Bars = Callable[[Cue], NDArray[np.float64]]  # seconds from the start of the slot


def follow_midi(context: Context, cue_id: int, file_name: str, data: bytes) -> Cue:
    """Have a cue follow the tempo map of a file, which starts with its slot; one step of undo.

    Raises: NotFoundError, SpotError, BriefError where none of its bars lies in the slot.
    """
    tempo_map = read_tempo_midi(data)

    def bars(cue: Cue) -> NDArray[np.float64]:
        beats = tempo_map.beats(cue.slot_length_flicks / FLICKS_PER_S)
        return beats.at_s[beats.bars()]

    return _follow(context, cue_id, bars, f"reading {file_name} onto")


def follow_picture(context: Context, cue_id: int) -> Cue:
    """Have a cue follow the tempo map of its picture; one step of undo. Raises: NotFoundError, BriefError."""

    def bars(cue: Cue) -> NDArray[np.float64]:
        beats = map_of(cue.picture).beats
        return beats.at_s[beats.bars()] - float(cue.slot_start_frames / rate_of(cue.picture).fps)

    return _follow(context, cue_id, bars, "following the map with")


def _follow(context: Context, cue_id: int, bars: _Bars, words: str) -> Cue:
    def make(cue: Cue) -> tuple[dict[str, Any], dict[str, Any], str]:
        if cue.track is None:
            raise BriefError("This cue has no track yet. Choose one first; it then follows the map.")
        chart = context.planners.get(cue.track).chart
        target = round(cue.slot_length_flicks * chart.rate / FLICKS_PER_S)
        pairs = followed(chart, bars(cue), target)
        held = [{"source_samples": source, "at_flicks": seconds_to_flicks(out / chart.rate)} for source, out in pairs]
        return {"asks": {**(cue.asks or {}), "method": "bend", "held_bars": held}}, {}, f"{words} {cue.number}"

    return change_cue(context, cue_id, make)
