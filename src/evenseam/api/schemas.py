"""What goes in and out over HTTP. Inputs forbid unknown fields and lax types."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from evenseam.api.problems import Problem
from evenseam.core.plan import (
    DEFAULT_EARLY_PCT,
    DEFAULT_FADE_S,
    DEFAULT_SILENCE_S,
    LONGEST_FADE_S,
    LONGEST_SILENCE_S,
    MOST_GIVE_PCT,
    MOST_NAMED_SEAMS,
    MOST_WEIGHT,
    MOST_WISHES,
    SHORTEST_FADE_S,
    LandingAsked,
    OpeningKind,
    Order,
    Plan,
)
from evenseam.core.plan.costs import Costs

MOST_FLICKS = 3 * 3600 * 705_600_000
MOST_FRAMES = 24 * 3600 * 240
SeamPlaces = Annotated[list[int], Field(min_length=2, max_length=2)]  # samples of the track that a seam leaves and enters


class Answer(BaseModel):
    """Base of what goes out."""

    model_config = ConfigDict(from_attributes=True)


class Input(BaseModel):
    """Base of what comes in."""

    model_config = ConfigDict(extra="forbid", strict=True)


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


class WishAsked(Input):
    """How full the music is to be over a span, in flicks from the start of the slot: 0 as thin as the track gets, 1 as full."""

    start_flicks: int = Field(ge=0, le=MOST_FLICKS)
    end_flicks: int = Field(ge=1, le=MOST_FLICKS)
    start_level: float = Field(ge=0, le=1, strict=False)
    end_level: float = Field(ge=0, le=1, strict=False)


class ListeningAsked(Input):
    """How much each respect counts in the choice of seams: 1 as is usual, 0 not at all."""

    groove: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    harmony: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    colour: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    level: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    voice: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)


class CueAsks(Input):
    """What is asked of the fits of a cue beside its slot; what is left out is left to the planner.

    Seams are samples of the cue's track that they leave and enter: those that are kept wherever they can be, and those that
    are not to be taken.
    """

    method: Literal["blend", "rearrange", "loop", "stretch", "bend", "trim"] = "blend"
    give_pct: float | None = Field(None, ge=0, le=MOST_GIVE_PCT, strict=False)
    hold_bars: int | None = Field(None, ge=1, le=64)
    max_seams: int | None = Field(None, ge=0, le=1000)
    early_pct: float = Field(DEFAULT_EARLY_PCT, ge=0, le=100, strict=False)
    silence_s: float = Field(DEFAULT_SILENCE_S, ge=0, le=LONGEST_SILENCE_S, strict=False)
    opening: OpeningKind | None = None
    landing: LandingAsked = "ring_out"
    fade_s: float = Field(DEFAULT_FADE_S, ge=SHORTEST_FADE_S, le=LONGEST_FADE_S, strict=False)
    order: Order = "free"
    kept_seams: list[SeamPlaces] = Field([], max_length=MOST_NAMED_SEAMS)
    forbidden_seams: list[SeamPlaces] = Field([], max_length=MOST_NAMED_SEAMS)
    shape: list[WishAsked] = Field([], max_length=MOST_WISHES)
    listening: ListeningAsked = ListeningAsked()

    def stored(self) -> dict[str, Any]:
        """As a cue keeps it."""
        return self.model_dump(exclude_defaults=True)


class CueRead(Answer):
    """A cue. The slot's length is in flicks (1/705,600,000 s). `revision` counts its changes."""

    id: int
    production_id: int
    picture_id: int
    number: str
    name: str
    slot_start_frames: int
    slot_length_flicks: int
    track_id: int | None
    colour: str
    notes: str
    status: str
    look_again: bool
    asks: dict[str, Any] | None
    fit_id: int | None
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
    """A piece of the catalogue."""

    id: str
    title: str
    artist: str
    tags: list[str]
    tempo_bpm: float
    meter: str
    length_s: float
    terms: TermsRead


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


class CueFitRead(Answer):
    """The answer to what a cue asks for: a plan, or the problem that there is none, or neither while no track is chosen.

    `is_outdated`: the plan was made before the track's chart was corrected, or hits were moved.
    `is_missing`: nothing was planned for this yet.
    """

    fit_id: int | None
    track_id: int | None
    plan: Plan | None
    problem: Problem | None
    is_outdated: bool
    is_missing: bool


class WayRead(Answer):
    """What one method makes of what a cue asks for: what it costs the listener, or why it makes nothing. Lower scores first."""

    method: str
    score: float | None
    costs: Costs | None
    problem: Problem | None


class ChangeRead(Answer):
    """One change that would have every must of a cue met: what is to be other, and the value that it then has.

    `tolerance_frames` is of the hits that are missed; `opening` and `landing` are left to the planner.
    """

    kind: Literal["give_pct", "max_seams", "hold_bars", "tolerance_frames", "opening", "landing"]
    value: float | None


class OutlookRead(Answer):
    """How a track would do in the slot of a cue. `suits`: 0 to 100; `grade`: of its worst seam, empty without one."""

    track_id: int
    suits: int
    cost: float | None
    seams: int
    grade: str
    speed_change_pct: float
    hits_within_reach: int
    words: str


class FitRead(Answer):
    """A fit in the list of a cue's. `origin`: planned, by hand, carried."""

    id: int
    track_id: int
    track_title: str
    name: str
    rank: int
    origin: str
    length_s: float
    n_seams: int
    is_chosen: bool
    created_at: datetime


class VerdictRead(Answer):
    """What was said of a seam, which is named by the samples of the track that it leaves and enters."""

    source_from_samples: int
    source_to_samples: int
    verdict: str
    words: str


class VerdictGiven(Input):
    """What is said of a seam; null takes it back."""

    source_from_samples: int = Field(ge=0)
    source_to_samples: int = Field(ge=0)
    verdict: Literal["passed", "failed"] | None
    words: str = Field("", max_length=2000)


class FitChoice(Input):
    """The fit that a cue goes back to."""

    fit_id: int


class FitName(Input):
    """What a fit is called; nothing takes its name away."""

    name: str = Field(max_length=200)


class CueUpdate(Input):
    """Fields of a cue to change; one undoable step. `revision`: that of the cue as it was looked at.

    `length`, `start` and `end` are what a person typed; `slot_length_flicks` and `slot_start_frames` are exact. A new start
    alone moves the slot, an `end` changes its length.
    """

    name: str | None = Field(None, min_length=1, max_length=200)
    number: str | None = Field(None, min_length=1, max_length=20)
    colour: Literal["amber", "sage", "sky", "rose", "violet", "sand"] | None = None
    status: Literal["open", "working", "review", "approved"] | None = None
    notes: str | None = Field(None, max_length=2000)
    look_again: bool | None = None
    start: str | None = Field(None, max_length=64)
    end: str | None = Field(None, max_length=64)
    slot_start_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)
    track_id: int | None = None
    length: str | None = Field(None, max_length=64)
    slot_length_flicks: int | None = Field(None, gt=0, le=MOST_FLICKS)
    asks: CueAsks | None = None
    revision: int | None = Field(None, ge=0)


class CueCreate(Input):
    """A slot that is to become a cue, in frames of its picture; without a name it is called by its number."""

    start_frames: int = Field(ge=0, le=MOST_FRAMES)
    end_frames: int = Field(gt=0, le=MOST_FRAMES)
    name: str = Field("", max_length=200)


class TrackUpdate(Input):
    """Fields of a track to change; one undoable step."""

    title: str | None = Field(None, min_length=1, max_length=200)
    artist: str | None = Field(None, max_length=300)
    tags: list[str] | None = Field(None, max_length=40)
    revision: int | None = Field(None, ge=0)


class TryLength(Input):
    """A length to try."""

    slot_length_flicks: int = Field(gt=0, le=MOST_FLICKS)


class RenderRequest(Input):
    """The form of the file."""

    sample_format: Literal["int16", "int24", "float32"] = "int24"
