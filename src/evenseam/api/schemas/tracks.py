"""Tracks and refused files."""

from typing import Literal

from pydantic import Field

from evenseam.api.schemas.base import Answer, Input
from evenseam.api.schemas.charts import SectionRead
from evenseam.api.schemas.jobs import JobRead


class LicenceRead(Answer):
    """The terms a track was licensed under, and which piece of the catalogue it is."""

    name: str
    terms: str
    allowed: list[str]
    reference: str
    piece_id: str


class RefusalRead(Answer):
    """A file that was taken in and turned out to be no use."""

    id: int
    name: str
    reason: str


class TrackRead(Answer):
    """A track. The fields of what was heard are null until it was listened to; tempo and metre are as corrected.

    `chart_id` changes whenever its chart does.
    """

    id: int
    production_id: int
    title: str
    file_name: str
    state: Literal["ready", "listening", "failed", "cancelled"]
    job: JobRead | None
    size_bytes: int
    rate_hz: int | None
    channels: int | None
    n_samples: int | None
    tempo_bpm: float | None
    meter: str | None
    free_time: bool | None
    key_name: str | None
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    voice_pct: float | None
    chart_id: str
    artist: str
    tags: list[str]
    has_cover: bool
    sections: list["SectionRead"]
    licence: "LicenceRead | None"
    revision: int


class TrackUpdate(Input):
    """Fields of a track to change; one undoable step."""

    title: str | None = Field(None, min_length=1, max_length=200)
    artist: str | None = Field(None, max_length=300)
    tags: list[str] | None = Field(None, max_length=40)
    revision: int | None = Field(None, ge=0)
