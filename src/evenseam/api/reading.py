"""Rows and core values to what goes out."""

from dataclasses import asdict
from datetime import UTC, datetime
from fractions import Fraction
from math import ceil
from typing import Any

from sqlalchemy.orm import Session

from evenseam.api import cue_schemas, schemas, sheet_edits
from evenseam.api.problems import problem_of
from evenseam.core.chart import CHART_VERSION, Chart, Corrections, roles_of
from evenseam.core.chart.chart import finite, meter_name
from evenseam.core.plan.changes import Change
from evenseam.core.plan.planner import Tried
from evenseam.core.spot import Pair
from evenseam.core.timebase import FLICKS_PER_S
from evenseam.services.fitting import CueFit
from evenseam.services.versions import Likeness
from evenseam.store.history import history_steps
from evenseam.store.jobs import OPEN_STATES, listening_job, listening_jobs, newest_of
from evenseam.store.models import Cue, Fit, Job, Picture, Track
from evenseam.store.productions import get_production
from evenseam.store.tracks import chart_id, list_tracks, tracks_of


def picture_jobs(session: Session, production_id: int) -> dict[int, Job]:
    """What is told at each picture of a production, by its id: how its film is looked through, else what is found in it."""
    finding = newest_of(session, production_id, ["dialogue"])
    scanning = newest_of(session, production_id, ["film"])
    open_ones = {picture_id: job for picture_id, job in finding.items() if job.state in OPEN_STATES}
    return open_ones | {
        picture_id: job for picture_id, job in scanning.items() if job.state != "done" or picture_id not in open_ones
    }


def read_picture(picture: Picture, job: Job | None) -> schemas.PictureRead:
    """A picture row, with the job that is told at it."""
    # Rows are read one after the other: a job may end between its picture and itself.
    is_seen = picture.film is None or picture.film.thumbs is not None
    is_told = job is not None and not (job.state == "done" and is_seen)
    rate = schemas.RateRead(num=picture.rate_num, den=picture.rate_den, drop_frame=picture.drop_frame)
    return schemas.PictureRead(
        id=picture.id,
        name=picture.name,
        rate=rate,
        length_frames=picture.length_frames,
        start_frames=picture.start_frames,
        film=_read_film(picture),
        job=read_job(job) if job is not None and is_told else None,
        sound_track_id=picture.sound_track_id,
        version_of_id=picture.version_of_id,
        notes=picture.notes or [],
        revision=picture.revision,
    )


def _read_film(picture: Picture) -> schemas.FilmRead | None:
    film = picture.film
    if film is None:
        return None
    at = f"/api/pictures/{picture.id}"
    # The address changes with what is behind it, so that a browser never keeps the film before its copy.
    url = f"{at}/film?of={film.sha256[:12]}{'c' if film.has_copy else ''}" if film.has_copy or film.is_playable else None
    return schemas.FilmRead(
        url=url,
        width_px=film.width_px,
        height_px=film.height_px,
        has_sound=film.has_sound,
        thumbs_url=f"{at}/thumbs?of={film.sha256[:12]}" if film.thumbs else None,
        thumbs=schemas.ThumbsRead(**film.thumbs) if film.thumbs else None,
    )


def read_cue(cue: Cue) -> cue_schemas.CueRead:
    """A cue row."""
    return cue_schemas.CueRead.model_validate(cue)


def read_production(session: Session, production_id: int) -> schemas.ProductionRead:
    """A production with what it holds. Raises: NotFoundError.

    Jobs are read before the pictures that they change: one that ends in between is told as running, and never as done while
    what it found is not there.
    """
    jobs = picture_jobs(session, production_id)
    production = get_production(session, production_id)
    undo, redo = history_steps(session, production_id)
    pictures = [p for p in production.pictures if not p.is_deleted]
    shown = {p.id for p in pictures}
    return schemas.ProductionRead(
        id=production.id,
        name=production.name,
        pictures=[read_picture(p, jobs.get(p.id)) for p in pictures],
        cues=[read_cue(c) for c in production.cues if not c.is_deleted and c.picture_id in shown],
        history=schemas.HistoryRead(
            undo=undo.words if undo else None,
            redo=redo.words if redo else None,
            undo_by=undo.who if undo else "",
            redo_by=redo.who if redo else "",
        ),
    )


_JOB_FIELDS = ("id", "kind", "state", "subject", "subject_id", "progress", "stage", "told", "error", "created_at")


def read_job(job: Job) -> schemas.JobRead:
    """A job row."""
    until = job.finished_at or datetime.now(UTC)
    return schemas.JobRead.model_validate(
        {
            **{name: getattr(job, name) for name in _JOB_FIELDS},
            "elapsed_s": max(0.0, (until - job.started_at).total_seconds()) if job.started_at else 0.0,
            "has_file": job.file is not None,
        }
    )


def read_tracks(session: Session, production_id: int) -> list[schemas.TrackRead]:
    """All tracks of a production; their jobs are asked for at once."""
    jobs = listening_jobs(session, production_id)
    return [_read_track(t, jobs.get(t.sha256)) for t in list_tracks(session, production_id)]


def read_track(session: Session, track: Track) -> schemas.TrackRead:
    """A track row with its recording and its listening job."""
    return _read_track(track, listening_job(session, track.sha256))


def read_news(session: Session, event: dict[str, Any]) -> dict[str, Any]:
    """An event with what it is about as it is now, so that nobody need ask: the job, and the tracks of one recording."""
    news, is_job = dict(event), event["kind"] == "job"
    track_id = event.get("track_id") if not is_job else event["subject_id"] if event["subject"] == "track" else None
    if is_job:
        job = session.get(Job, event["job_id"])
        news["job"] = read_job(job).model_dump(mode="json") if job else None
    if track_id is not None:
        news["tracks_now"] = [read_track(session, t).model_dump(mode="json") for t in tracks_of(session, track_id)]
    return news


def _read_track(track: Track, job: Job | None) -> schemas.TrackRead:
    recording = track.recording
    ready = recording.chart_version == CHART_VERSION
    if ready and job is not None and job.state not in OPEN_STATES:
        job = None
    state = "ready" if ready else "failed" if job is None else _STATES.get(job.state, "listening")
    heard = (
        "rate_hz", "channels", "n_samples", "tempo_bpm", "meter", "free_time", "key_name", "loudness_lufs",
        "true_peak_dbtp", "voice_pct", "size_bytes",
    )  # fmt: skip
    return schemas.TrackRead.model_validate(
        {
            "id": track.id,
            "production_id": track.production_id,
            "title": track.title,
            "file_name": track.file_name,
            "state": state,
            "job": read_job(job) if job else None,
            **{name: getattr(recording, name) for name in heard},
            **_as_corrected(track),
            "artist": track.artist,
            "tags": track.tags or [],
            "has_cover": recording.cover_suffix is not None,
            "sections": _sections(track),
            "licence": track.licence,
            "chart_id": f"{chart_id(track)}.{recording.hearings}",
            "revision": track.revision,
        }
    )


def _sections(track: Track) -> list[dict[str, object]]:
    """Those set by hand, else those that were heard."""
    set_by_hand = (track.corrections or {}).get("sections")
    if set_by_hand is not None:
        return list(set_by_hand)
    names = ("start_samples", "end_samples", "label")
    return [dict(zip(names, s, strict=True)) for s in track.recording.sections or []]


def _as_corrected(track: Track) -> dict[str, object]:
    """Tempo and metre where they were set by hand."""
    if track.set_meter is None:
        return {}
    return {"tempo_bpm": track.set_tempo_bpm, "meter": track.set_meter, "free_time": False}


_STATES = {"failed": "failed", "cancelled": "cancelled"}


def read_chart(chart: Chart, corrections: Corrections) -> schemas.ChartRead:
    """A chart as it is used, with what was corrected of it."""
    same = (
        "rate", "n_samples", "free_time", "tempo_bpm", "other_tempo_bpm", "beats_per_bar", "key",
        "music_start_samples", "music_end_samples",
        "trim_start_samples", "trim_end_samples", "opening_samples", "last_hit_samples", "ring_out_end_samples",
    )  # fmt: skip
    per_beat = {name: [round(float(v), 3) for v in getattr(chart, name)] for name in ("intensity", "voice", "lead")}
    return schemas.ChartRead.model_validate(
        {
            **{name: getattr(chart, name) for name in same},
            **per_beat,
            "corrected": list(corrections.parts),
            "pins": list(corrections.grid["pins"]) if corrections.grid else [],
            "marks": [schemas.MarkRead.model_validate(m) for m in corrections.marks],
            "meter": meter_name(chart),
            "confidence": schemas.ConfidenceRead.model_validate(chart.confidence),
            "loudness_lufs": finite(chart.loudness_lufs),
            "true_peak_dbtp": finite(chart.true_peak_dbtp),
            "beats": chart.beats.tolist(),
            "beat_in_bar": chart.beat_in_bar.tolist(),
            "sections": [
                {**asdict(section), "role": role} for section, role in zip(chart.sections, roles_of(chart), strict=True)
            ],
            "loops": [schemas.LoopRead.model_validate(x) for x in chart.loops],
        }
    )


def read_cue_fit(found: CueFit) -> cue_schemas.CueFitRead:
    """The answer to what a cue asks for."""
    return cue_schemas.CueFitRead(
        fit_id=found.fit_id,
        track_id=found.track_id,
        plan=found.plan,
        problem=problem_of(found.problem) if found.problem else None,
        is_outdated=found.is_outdated,
        is_missing=found.is_missing,
        choices=list(found.choices),
    )


def read_change(change: Change, samples_per_frame: Fraction) -> cue_schemas.ChangeRead:
    """A change that would do; a tolerance in whole frames of the picture."""
    if change.kind == "tolerance_samples" and change.value is not None:
        return cue_schemas.ChangeRead(kind="tolerance_frames", value=ceil(change.value / samples_per_frame))
    return cue_schemas.ChangeRead(kind=change.kind, value=change.value)


def read_way(tried: Tried) -> cue_schemas.WayRead:
    """What a method makes of a brief."""
    return cue_schemas.WayRead(
        method=tried.method,
        score=round(tried.plan.score, 2) if tried.plan else None,
        costs=tried.costs,
        problem=problem_of(tried.problem) if tried.problem else None,
    )


def read_fit(fit: Fit, cue: Cue) -> cue_schemas.FitRead:
    """A fit row, for a list."""
    seams = fit.plan.get("seams", ())
    return cue_schemas.FitRead(
        id=fit.id,
        track_id=fit.track_id,
        track_title=fit.track.title,
        name=fit.name,
        rank=fit.rank,
        origin=fit.origin,
        length_s=fit.brief.document["length_flicks"] / FLICKS_PER_S,
        n_seams=len(seams),
        is_chosen=fit.id == cue.fit_id,
        created_at=fit.created_at,
    )


def read_likeness(found: Likeness) -> sheet_edits.LikenessRead:
    """Shots of two versions side by side, in the order of the new one; those that are gone come last."""
    of_new = {p.new_index: p for p in found.pairs}
    gone = set(range(len(found.old_shots))) - {p.old_index for p in found.pairs}
    rows = [_like(found, of_new[j].old_index if j in of_new else None, j, of_new) for j in range(len(found.new_shots))]
    rows += [_like(found, i, None, of_new) for i in sorted(gone)]
    return sheet_edits.LikenessRead(shots=rows, n_carried=found.n_carried, n_marks=found.n_marks)


def _like(found: Likeness, old: int | None, new: int | None, of_new: dict[int, Pair]) -> sheet_edits.LikeShot:
    before = None if old is None else found.old_shots[old]
    after = None if new is None else found.new_shots[new]
    pair = None if new is None else of_new.get(new)
    shown = after or before
    return sheet_edits.LikeShot(
        old_index=old,
        name=(shown.name or shown.reel) if shown else "",
        before=None if before is None else sheet_edits.FrameSpan.model_validate(before),
        after=None if after is None else sheet_edits.FrameSpan.model_validate(after),
        sure_pct=None if pair is None else round(100 * pair.sure),
    )
