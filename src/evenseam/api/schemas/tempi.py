"""Steady tempi that meet the hits of a picture."""

from typing import Annotated

from fastapi import Query

from evenseam.api.schemas.base import Answer

CountIn = Annotated[int, Query(ge=0, le=8)]
Parts = Annotated[int, Query(ge=1, le=4)]


class MetRead(Answer):
    """What a tempo makes of a hit: how far off the beat is (late above 0), and which beat of which bar it is, both from 1."""

    hit_id: int
    off_frames: float
    bar: int
    beat: int
    is_met: bool


class TempoRead(Answer):
    """A tempo, beats of its bars, where bar one starts, whole and half tempi of the same answer, and hits in order of time."""

    bpm: float
    meter: int
    starts_s: float
    also_bpm: list[float]
    hits: list[MetRead]
