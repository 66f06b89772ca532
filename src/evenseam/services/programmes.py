"""Programmes: everything that sounds on a picture, of one cue alone, or of a track, at its place. Nothing is planned for it."""

from dataclasses import dataclass, replace
from typing import Literal

from sqlalchemy.orm import Session

from evenseam.core.chart import CHART_VERSION
from evenseam.core.mix.levels import CLICK, MUSIC, OWN, Level
from evenseam.core.render import Programme
from evenseam.core.render.arranging import Placed, arranged, by_itself
from evenseam.core.render.click import MUSIC_DB
from evenseam.core.timebase import frames_to_flicks
from evenseam.services.context import Context
from evenseam.store.briefs import asked_of
from evenseam.store.errors import ConflictError, NotReadyError
from evenseam.store.fits import get_fit, heard_fit
from evenseam.store.mixes import mix_of
from evenseam.store.models import Cue, Fit, Picture, Track
from evenseam.store.productions import cues_of, get_cue, get_picture
from evenseam.store.sheets import rate_of
from evenseam.store.tracks import get_track

SoundKind = Literal["fit", "recording", "click"]


@dataclass(frozen=True, slots=True)
class Sounding:
    """A sound of the production, as a programme names it: of a fit, a track, or clicks on a track's beats, by their `id`."""

    kind: SoundKind
    id: int
    rate: int
    channels: int
    cue_id: int | None = None
    chart_id: str = ""

    @property
    def name(self) -> str:
        """What clips call it."""
        return f"{self.kind} {self.id}"


@dataclass(frozen=True, slots=True)
class MadeProgramme:
    """A programme with its sounds. `of`: what it is a programme of, whatever it sounds like now.

    `unfitted`: cues with a track that was heard, and no fit for what they ask now; what sounds of them is the fit before, if
    there is one.
    """

    of: str
    programme: Programme
    sounds: tuple[Sounding, ...]
    unfitted: tuple[int, ...] = ()


def programme_of_picture(context: Context, picture_id: int) -> MadeProgramme:
    """The programme of a picture: its cues as they are fitted, and its own sound. Raises: NotFoundError."""
    with context.database.transaction() as session:
        return on_picture(session, get_picture(session, picture_id))


def on_picture(session: Session, picture: Picture) -> MadeProgramme:
    """The same within a transaction."""
    mix, rate, unfitted = mix_of(picture), rate_of(picture), []
    placed: list[tuple[Placed, Sounding]] = []
    for cue in cues_of(session, picture.id):
        if cue.track is None or not _is_heard(cue.track):
            continue
        digest = asked_of(cue).digest
        fit = heard_fit(session, cue, cue.track, digest)
        if fit is None or fit.brief_digest != digest:
            unfitted.append(cue.id)
        if fit is not None:
            placed.append(_fit_at(fit, frames_to_flicks(cue.slot_start_frames, rate), mix.of_cue(cue.id)))
    own = get_track(session, picture.sound_track_id) if picture.sound_track_id is not None else None
    if own is not None and _is_heard(own):
        placed.append(_track_at(own, OWN))
    programme = arranged([p for p, _ in placed], mix, frames_to_flicks(picture.length_frames, rate))
    return MadeProgramme(f"picture {picture.id}", programme, tuple(s for _, s in placed), tuple(unfitted))


def programme_of_cue(context: Context, cue_id: int, fit_id: int | None = None) -> MadeProgramme:
    """The programme of a cue alone, at its own rate and level; with another fit of it in its place, if one is named.

    Raises: NotFoundError, ConflictError for a fit of another cue, NotReadyError where it has none.
    """
    with context.database.transaction() as session:
        return of_cue(session, cue_id, fit_id)


def of_cue(session: Session, cue_id: int, fit_id: int | None) -> MadeProgramme:
    """The same within a transaction."""
    cue = get_cue(session, cue_id)
    fit = _fit_of(session, cue) if fit_id is None else get_fit(session, fit_id)
    if fit is None:
        raise NotReadyError("This cue is not fitted yet. Choose a track for it, or wait for its fit.")
    if fit.cue_id != cue_id:
        raise ConflictError("This fit belongs to another cue. Choose one of this cue.", fit_id=fit_id)
    level = replace(mix_of(cue.picture).of_cue(cue_id), is_muted=False)  # by itself it is there to be heard
    placed, sounding = _fit_at(fit, 0, level)
    return MadeProgramme(f"cue {cue_id}", by_itself(placed), (sounding,))


def programme_of_track(context: Context, track_id: int, with_click: bool) -> MadeProgramme:
    """The programme of a track as it is, perhaps with a click on its beats. Raises: NotFoundError, NotReadyError."""
    with context.database.transaction() as session:
        track = get_track(session, track_id)
    context.planners.get(track)
    placed, sounding = _track_at(track, MUSIC)
    if not with_click:
        return MadeProgramme(f"track {track_id}", by_itself(placed), (sounding,))
    click = replace(sounding, kind="click", channels=1)
    beside = replace(placed, sound=click.name, channels=1, bus=CLICK)
    programme = by_itself(replace(placed, level=Level(MUSIC_DB)), [beside])
    return MadeProgramme(f"track {track_id}", programme, (sounding, click))


def _fit_of(session: Session, cue: Cue) -> Fit | None:
    return None if cue.track is None else heard_fit(session, cue, cue.track, asked_of(cue).digest)


def _is_heard(track: Track) -> bool:
    return track.recording.chart_version == CHART_VERSION and track.recording.rate_hz is not None


def _fit_at(fit: Fit, at_flicks: int, level: Level) -> tuple[Placed, Sounding]:
    rate, channels = _form_of(fit.track)
    sounding = Sounding("fit", fit.id, rate, channels, fit.cue_id)
    return Placed(sounding.name, rate, channels, fit.target_samples, at_flicks, MUSIC, level), sounding


def _track_at(track: Track, bus: str) -> tuple[Placed, Sounding]:
    rate, channels = _form_of(track)
    sounding = Sounding(
        "recording", track.id, rate, channels, chart_id=f"{track.corrections_digest}.{track.recording.hearings}"
    )
    return Placed(sounding.name, rate, channels, track.recording.n_samples or 0, 0, bus), sounding


def _form_of(track: Track) -> tuple[int, int]:
    recording = track.recording
    if recording.rate_hz is None or recording.channels is None:
        raise NotReadyError("This track is still being listened to. It can be heard in a moment.")
    return recording.rate_hz, recording.channels
