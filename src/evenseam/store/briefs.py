"""What is asked of a cue, as a document: kept once for all fits that answer it, and found by its digest."""

import hashlib
import json
from collections import defaultdict
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict
from sqlalchemy import insert
from sqlalchemy.orm import Session

from evenseam.core.plan import (
    DEFAULT_EARLY_PCT,
    DEFAULT_FADE_S,
    DEFAULT_SILENCE_S,
    PLANNER_VERSION,
    Aim,
    Brief,
    LandingAsked,
    Listening,
    OpeningKind,
    Order,
    Wish,
)
from evenseam.core.spot import HitKind, Weight
from evenseam.core.timebase import flicks_to_samples, frames_to_flicks
from evenseam.store import models
from evenseam.store.models import Cue, Picture, now
from evenseam.store.sheets import hits_of, rate_of

_NOT_AS_THEY_ARE = {
    "hits",
    "shape",
    "listening",
    "pinned_bars",
    "forbidden_bars",
    "held_bars",
}  # of the fields, in `core.plan.Brief`


class HitAsked(BaseModel):
    """A hit that a fit aims at, in flicks from the start of its slot. `until_flicks` ends a silence.

    `pinned_samples`, `forbidden_samples`: places of the track, as in `core.plan.Aim`.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    at_flicks: int
    kind: HitKind = "downbeat"
    weight: Weight = "should"
    tolerance_flicks: int = 0
    until_flicks: int | None = None
    pinned_samples: int | None = None
    forbidden_samples: tuple[int, ...] = ()


class BarAsked(BaseModel):
    """A bar of the track and a hit of the picture: to be pinned to it, or kept off it."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    hit_id: int
    source_samples: int


class BarHeld(BaseModel):
    """A bar of the track that a tempo map has at a moment, in flicks from the start of its slot."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    source_samples: int
    at_flicks: int


class WishAsked(BaseModel):
    """How full the music is to be over a span, in flicks from the start of its slot: from one level to another, 0 to 1."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    start_flicks: int
    end_flicks: int
    start_level: float
    end_level: float


class ListeningAsked(BaseModel):
    """How much each respect counts in the choice of seams, 1 as is usual."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    groove: float = 1.0
    harmony: float = 1.0
    colour: float = 1.0
    level: float = 1.0
    voice: float = 1.0


class Asks(BaseModel):
    """What a cue asks for beside its slot. The fields mean what they mean in `core.plan.Brief`.

    A new field takes a default that changes nothing: only what differs from the defaults is part of the digest, so that fits
    of before are found as ever. `hits`: None for those that lie in the slot now, of which each meets the bar that is pinned to
    it, and none that is kept off it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    method: str = "blend"
    give_pct: float | None = None
    hold_bars: int | None = None
    max_seams: int | None = None
    kept_seams: tuple[tuple[int, int], ...] = ()
    early_pct: float = DEFAULT_EARLY_PCT
    silence_s: float = DEFAULT_SILENCE_S
    opening: OpeningKind | None = None
    landing: LandingAsked = "ring_out"
    fade_s: float = DEFAULT_FADE_S
    order: Order = "free"
    forbidden_seams: tuple[tuple[int, int], ...] = ()
    shape: tuple[WishAsked, ...] = ()
    listening: ListeningAsked = ListeningAsked()
    pinned_bars: tuple[BarAsked, ...] = ()
    forbidden_bars: tuple[BarAsked, ...] = ()
    held_bars: tuple[BarHeld, ...] = ()
    hits: tuple[HitAsked, ...] | None = None


class BriefDocument(Asks):
    """All that is asked of a fit. The length is in flicks, which hold it exactly whatever the rate of the track."""

    version: Literal[1] = 1
    length_flicks: int

    @property
    def digest(self) -> str:
        """Names the document by what it asks."""
        return digest_of(self.stored())

    def stored(self) -> dict[str, Any]:
        """As it is kept: what differs from the defaults, and the version."""
        return {"version": self.version, **self.model_dump(mode="json", exclude_defaults=True)}

    def asks(self) -> dict[str, Any] | None:
        """What is asked beside the length, as a cue keeps it; None for nothing."""
        return self.model_dump(mode="json", exclude_defaults=True, include=set(Asks.model_fields)) or None

    def at(self, rate_hz: int) -> Brief:
        """The brief for a track at its rate. Raises: BriefError."""
        asks = self.model_dump(include=set(Asks.model_fields) - _NOT_AS_THEY_ARE)
        length = flicks_to_samples(self.length_flicks, rate_hz)
        aims = tuple(_aim(hit, rate_hz) for hit in self.hits or ())
        shape = tuple(_wish(wish, rate_hz) for wish in self.shape)
        held = tuple((bar.source_samples, flicks_to_samples(bar.at_flicks, rate_hz)) for bar in self.held_bars)
        listening = Listening(**self.listening.model_dump())
        return Brief(length, **asks, aims=aims, shape=shape, listening=listening, held_bars=held)


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
    unless it asks for others.
    """
    asked = BriefDocument(length_flicks=length_flicks or cue.slot_length_flicks, **((cue.asks if asks is None else asks) or {}))
    hits = hits_in_slot(cue, asked.length_flicks, asked) if asked.hits is None else asked.hits
    return asked.model_copy(update={"hits": hits or None})


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
