"""What is asked of a cue, as a document: kept once for all fits that answer it, and found by its digest."""

import hashlib
import json
from collections import defaultdict
from typing import Annotated, Any, Literal

from pydantic import Field
from sqlalchemy import insert
from sqlalchemy.orm import Session

from evenseam.core.plan import (
    ASKS,
    MOST_AIMS,
    MOST_HELD_BARS,
    MOST_NAMED_BARS,
    MOST_WISHES,
    PLANNER_VERSION,
    WEIGHTS,
    Aim,
    Brief,
    Listening,
    SeamName,
    Wish,
)
from evenseam.core.plan.brief import LONGEST_TARGET_S
from evenseam.core.spot import HitKind, Weight
from evenseam.core.timebase import FLICKS_PER_S, flicks_to_samples, frames_to_flicks
from evenseam.store import models
from evenseam.store.documents import Document, document_of
from evenseam.store.models import Cue, Picture, now
from evenseam.store.sheets import hits_of, rate_of

MOST_SAMPLES = MOST_FLICKS = LONGEST_TARGET_S * FLICKS_PER_S  # no recording has more samples, no slot is longer
_Flicks = Annotated[int, Field(ge=0, le=MOST_FLICKS, strict=True)]
_Samples = Annotated[int, Field(ge=0, le=MOST_SAMPLES, strict=True)]
_Level = Annotated[float, Field(ge=0, le=1, strict=True)]
_RowId = Annotated[int, Field(ge=0, le=2**31 - 1, strict=True)]


class HitAsked(Document):
    """A hit that a fit aims at, in flicks from the start of its slot. `until_flicks` ends a silence.

    `pinned_samples`, `forbidden_samples`: places of the track, as in `core.plan.Aim`.
    """

    at_flicks: int
    kind: HitKind = "downbeat"
    weight: Weight = "should"
    tolerance_flicks: int = 0
    until_flicks: int | None = None
    pinned_samples: int | None = None
    forbidden_samples: tuple[int, ...] = ()


class BarAsked(Document):
    """A bar of the track, by a sample near its beat, and a hit of the picture: to be pinned to it, or kept off it."""

    hit_id: _RowId
    source_samples: _Samples


class BarHeld(Document):
    """A bar of the track that a tempo map has at a moment, in flicks from the start of its slot."""

    source_samples: _Samples
    at_flicks: _Flicks


class WishAsked(Document):
    """How full the music is to be over a span, in flicks from the start of its slot: 0 as thin as the track gets, 1 as full."""

    start_flicks: _Flicks
    end_flicks: Annotated[int, Field(ge=1, le=MOST_FLICKS, strict=True)]
    start_level: _Level
    end_level: _Level


class ListeningAsked(document_of("Weights", WEIGHTS)):  # type: ignore[misc]
    """How much each respect counts in the choice of seams: 1 as is usual, 0 not at all."""


class Asks(document_of("Limits", ASKS)):  # type: ignore[misc]
    """What a person asks of the fits of a cue beside its slot; what is left out is left to the planner.

    A new field takes a default that changes nothing: only what differs from the defaults is part of the digest, so that fits
    of before are found as ever. Bars are pinned to a hit, which they then must meet, or kept off it; or all of them are held
    where a tempo map has them, which `bend` then follows.
    """

    shape: tuple[WishAsked, ...] = Field((), max_length=MOST_WISHES)
    listening: ListeningAsked = ListeningAsked()
    pinned_bars: tuple[BarAsked, ...] = Field((), max_length=MOST_AIMS)
    forbidden_bars: tuple[BarAsked, ...] = Field((), max_length=MOST_NAMED_BARS)
    held_bars: tuple[BarHeld, ...] = Field((), max_length=MOST_HELD_BARS)

    def kept(self) -> dict[str, Any] | None:
        """As a cue keeps it: what differs from the defaults; None for nothing."""
        return self.model_dump(mode="json", exclude_defaults=True, include=set(CueAsks.model_fields)) or None


class CueAsks(Asks):
    """The same with the hits that a fit aims at, where those are not the ones that lie in the slot now."""

    hits: tuple[HitAsked, ...] | None = None


class BriefDocument(CueAsks):
    """All that is asked of a fit. The length is in flicks, which hold it exactly whatever the rate of the track.

    Seams are named by samples of the track, as in `core.plan.SeamName`.
    """

    version: Literal[1] = 1
    length_flicks: int
    kept_seams: tuple[tuple[int, int], ...] = ()
    forbidden_seams: tuple[tuple[int, int], ...] = ()

    @property
    def digest(self) -> str:
        """Names the document by what it asks."""
        return digest_of(self.stored())

    def stored(self) -> dict[str, Any]:
        """As it is kept: what differs from the defaults, and the version."""
        return {"version": self.version, **self.model_dump(mode="json", exclude_defaults=True)}

    def at(self, rate_hz: int) -> Brief:
        """The brief for a track at its rate. Raises: BriefError."""
        return Brief(
            flicks_to_samples(self.length_flicks, rate_hz),
            **self.model_dump(include=set(ASKS)),
            aims=tuple(_aim(hit, rate_hz) for hit in self.hits or ()),
            kept_seams=tuple(SeamName(*seam) for seam in self.kept_seams),
            forbidden_seams=tuple(SeamName(*seam) for seam in self.forbidden_seams),
            shape=tuple(_wish(wish, rate_hz) for wish in self.shape),
            listening=Listening(**self.listening.model_dump()),
            held_bars=tuple((bar.source_samples, flicks_to_samples(bar.at_flicks, rate_hz)) for bar in self.held_bars),
        )


def _aim(hit: HitAsked, rate_hz: int) -> Aim:
    until = None if hit.until_flicks is None else flicks_to_samples(hit.until_flicks, rate_hz)
    at, tolerance = (flicks_to_samples(flicks, rate_hz) for flicks in (hit.at_flicks, hit.tolerance_flicks))
    bars = hit.pinned_samples, hit.forbidden_samples
    return Aim(at, hit.kind, hit.weight, tolerance, until, "", *bars)


def _wish(wish: WishAsked, rate_hz: int) -> Wish:
    start, end = (flicks_to_samples(flicks, rate_hz) for flicks in (wish.start_flicks, wish.end_flicks))
    return Wish(start, end, wish.start_level, wish.end_level)


def asked_of(cue: Cue, length_flicks: int | None = None, asks: dict[str, Any] | None = None) -> BriefDocument:
    """What a cue asks for now, perhaps with another length, or with other `asks` than it has: with the hits in its slot,
    unless it asks for others, and with what was said of the seams of its track.
    """
    kept, forbidden = seams_asked(cue)
    asked = BriefDocument(
        length_flicks=length_flicks or cue.slot_length_flicks, kept_seams=kept, forbidden_seams=forbidden,
        **((cue.asks if asks is None else asks) or {}),
    )  # fmt: skip
    hits = hits_in_slot(cue, asked.length_flicks, asked) if asked.hits is None else asked.hits
    return asked.model_copy(update={"hits": hits or None})


Names = tuple[tuple[int, int], ...]


def seams_asked(cue: Cue) -> tuple[Names, Names]:
    """The seams that fits of a cue and its track are to have, and those they are not to have; one that was moved is both."""
    said = [seam for seam in cue.seams if cue.track is not None and seam.sha256 == cue.track.sha256]
    kept = [s.moved_to if s.wish == "moved" else s.name for s in said if s.wish in ("kept", "moved")]
    return tuple(kept), tuple(s.name for s in said if s.wish in ("forbidden", "moved"))


def hits_in_slot(cue: Cue, length_flicks: int, asks: Asks) -> tuple[HitAsked, ...]:
    """The hits that lie in a slot of some length. One is met within half a frame, or within its tolerance if that is more.

    One that a bar is pinned to must be met.
    """
    pinned = {bar.hit_id: bar.source_samples for bar in asks.pinned_bars}
    rate, start = rate_of(cue.picture), cue.slot_start_frames
    half_frame = frames_to_flicks(1, rate) // 2
    return tuple(
        HitAsked(
            at_flicks=frames_to_flicks(hit.at_frames - start, rate),
            kind=hit.kind,
            weight="must" if hit.id in pinned else hit.weight,
            tolerance_flicks=max(half_frame, frames_to_flicks(hit.tolerance_frames, rate)),
            until_flicks=None if hit.until_frames is None else frames_to_flicks(hit.until_frames - start, rate),
            pinned_samples=pinned.get(hit.id),
            forbidden_samples=tuple(bar.source_samples for bar in asks.forbidden_bars if bar.hit_id == hit.id),
        )
        for hit in hits_of(cue.picture)
        if hit.at_frames >= start and frames_to_flicks(hit.at_frames - start, rate) < length_flicks
    )


def on_picture(asked: BriefDocument, old: Picture, new: Picture) -> BriefDocument:
    """The same for another version of a picture: what is said of bars goes to the hits that are there as well."""
    same = same_hits(old, new)

    def known(bars: tuple[BarAsked, ...]) -> tuple[BarAsked, ...]:
        return tuple(bar.model_copy(update={"hit_id": same[bar.hit_id]}) for bar in bars if bar.hit_id in same)

    return asked.model_copy(update={"pinned_bars": known(asked.pinned_bars), "forbidden_bars": known(asked.forbidden_bars)})


def same_hits(old: Picture, new: Picture) -> dict[int, int]:
    """The ids of hits of one picture that are on another as well, and which those are.

    They are called the same and are of one kind, and both have as many of them.
    """
    before, after = _by_name(old), _by_name(new)
    both = (name for name, ids in before.items() if len(ids) == len(after[name]))
    return {a: b for name in both for a, b in zip(before[name], after[name], strict=True)}


def _by_name(picture: Picture) -> dict[tuple[str, str], list[int]]:
    """The ids of the hits of a picture, in order of time, by what they are called and of which kind they are."""
    found = defaultdict[tuple[str, str], list[int]](list)
    for hit in sorted(hits_of(picture), key=lambda hit: hit.at_frames):
        found[hit.label, hit.kind].append(hit.id)
    return found


def keep_brief(session: Session, document: BriefDocument) -> str:
    """Have a document kept. Returns its digest."""
    row = {"digest": document.digest, "document": document.stored(), "created_at": now()}
    session.execute(insert(models.Brief).prefix_with("IGNORE"), row)  # another cue may ask the same at this moment
    return document.digest


def fit_key(brief_digest: str, chart_id: str, sha256: str) -> str:
    """What a planned fit is found by: brief, chart, recording and planner."""
    return digest_of({"brief": brief_digest, "chart": chart_id, "sha256": sha256, "planner": PLANNER_VERSION})


def digest_of(document: dict[str, Any]) -> str:
    """SHA-256 of JSON values, whatever their order."""
    return hashlib.sha256(json.dumps(document, sort_keys=True, separators=(",", ":")).encode()).hexdigest()
