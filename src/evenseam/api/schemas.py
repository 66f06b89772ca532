"""Productions, pictures, tracks, charts and jobs over HTTP; cues and their fits are in `cue_schemas`."""

from datetime import datetime
from typing import Literal

from pydantic import Field

from evenseam.api.base import Answer, Input
from evenseam.api.cue_schemas import CueRead, OutlookRead
from evenseam.api.problems import Problem


class RateRead(Answer):
    """A picture rate, exact."""

    num: int
    den: int
    drop_frame: bool


class ThumbsRead(Answer):
    """How the small pictures of a film lie on their sheet: every so many frames one, in rows."""

    every_frames: int
    per_row: int
    count: int
    width_px: int
    height_px: int


class FilmRead(Answer):
    """The film of a picture. `url` plays in browsers, and is null while there is no copy yet of one that does not."""

    url: str | None
    width_px: int
    height_px: int
    has_sound: bool
    thumbs_url: str | None
    thumbs: ThumbsRead | None


class PictureRead(Answer):
    """A picture. `sound_track_id` is the track with its own sound; `version_of_id` the picture whose marks it carries on."""

    id: int
    name: str
    rate: RateRead
    length_frames: int
    start_frames: int
    film: FilmRead | None
    job: "JobRead | None"
    sound_track_id: int | None
    version_of_id: int | None
    notes: list[str]
    revision: int


class HistoryRead(Answer):
    """What undo and redo would do, in words, and who did it, if that is known; null where there is nothing."""

    undo: str | None
    redo: str | None
    undo_by: str
    redo_by: str


class ProductionRead(Answer):
    """A production with its pictures and cues."""

    id: int
    name: str
    pictures: list[PictureRead]
    cues: list[CueRead]
    history: HistoryRead


class ProductionListed(Answer):
    """A production in the list. One that is put away is kept, and offered only to be taken out again."""

    id: int
    name: str
    is_put_away: bool
    created_at: datetime


class ProductionCreate(Input):
    """A new production."""

    name: str = Field(min_length=1, max_length=200)


class ProductionUpdate(Input):
    """Another name for a production, or whether it is put away."""

    name: str | None = Field(None, min_length=1, max_length=200)
    is_put_away: bool | None = None


class JobRead(Answer):
    """A job on a thing: a track, a fit, a picture. `elapsed_s` runs while it runs, so that a page can tell the time left.

    `told`: what it has to say of what it did.
    """

    id: int
    kind: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    subject: str
    subject_id: int
    progress: float
    stage: str
    elapsed_s: float
    error: str | None
    told: str
    has_file: bool
    created_at: datetime


class LicenceRead(Answer):
    """The terms a track was licensed under, and which piece of the catalogue it is."""

    name: str
    terms: str
    allowed: list[str]
    reference: str
    piece_id: str


class TermsRead(Answer):
    """Under what terms a piece of the catalogue is offered; `years` is null without a limit."""

    name: str
    uses: list[str]
    territory: str
    years: int | None
    may_be_edited: bool
    credit: str


class PieceRead(Answer):
    """A piece of the catalogue. `outlook`: by its length and tempo alone, where it was asked for a cue."""

    id: str
    title: str
    artist: str
    tags: list[str]
    tempo_bpm: float
    meter: str
    length_s: float
    terms: TermsRead
    outlook: OutlookRead | None = None


class LicenceWanted(Input):
    """What a piece is wanted for."""

    use: str = Field(min_length=1, max_length=40)


class FetchRead(Answer):
    """A line of the answer while a licensed file comes in: how far it is, then the track, or what went wrong."""

    progress: float | None = None
    track_id: int | None = None
    problem: Problem | None = None


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


class SectionRead(Answer):
    """A section, in samples. `role`: intro, break, build or ending, where it is one and the chart is asked for."""

    start_samples: int
    end_samples: int
    label: str
    role: str = ""


class ConfidenceRead(Answer):
    """How sure the chart is of its beats, the tempo, the metre and beat one, 0 to 1 each."""

    beat: float
    tempo: float
    meter: float
    bar: float


class LoopRead(Answer):
    """Whole bars that repeat well, in samples."""

    start_samples: int
    end_samples: int
    bars: int
    score: float


class MarkRead(Answer):
    """A span that fits keep, skip, or have no seam in."""

    kind: Literal["keep", "skip", "guard"]
    start_samples: int
    end_samples: int


class ChartRead(Answer):
    """The chart of a track as it is used, in samples at `rate`. In free time `beats` are breath points, each its own bar.

    `intensity`, `voice` and `lead` have one value a beat, 0 to 1. `corrected`: what a person set, by name. `pins`: bar
    lines that stay where they were put.
    """

    corrected: list[str]
    pins: list[int]
    marks: list[MarkRead]

    rate: int
    n_samples: int
    free_time: bool
    tempo_bpm: float
    other_tempo_bpm: float
    meter: str
    beats_per_bar: int
    key: str
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    confidence: ConfidenceRead
    music_start_samples: int
    music_end_samples: int
    trim_start_samples: int
    trim_end_samples: int
    opening_samples: int
    last_hit_samples: int
    ring_out_end_samples: int
    beats: list[int]
    beat_in_bar: list[int]
    intensity: list[float]
    voice: list[float]
    lead: list[float]
    sections: list[SectionRead]
    loops: list[LoopRead]


class TrackUpdate(Input):
    """Fields of a track to change; one undoable step."""

    title: str | None = Field(None, min_length=1, max_length=200)
    artist: str | None = Field(None, max_length=300)
    tags: list[str] | None = Field(None, max_length=40)
    revision: int | None = Field(None, ge=0)
