"""What is asked of a cue, as a document: kept once for all fits that answer it, and found by its digest."""

import hashlib
import json
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict
from sqlalchemy import insert
from sqlalchemy.orm import Session

from evenseam.core.plan import PLANNER_VERSION, Brief
from evenseam.core.timebase import flicks_to_samples
from evenseam.store import models
from evenseam.store.models import Cue, now


class Asks(BaseModel):
    """What a cue asks for beside its slot. The fields mean what they mean in `core.plan.Brief`.

    A new field takes a default that changes nothing: only what differs from the defaults is part of the digest, so that fits
    of before are found as ever.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    method: str = "rearrange"
    give_pct: float | None = None
    hold_bars: int | None = None
    max_seams: int | None = None
    kept_seams: tuple[tuple[int, int], ...] = ()


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
        asks = self.model_dump(include=set(Asks.model_fields))
        return Brief(flicks_to_samples(self.length_flicks, rate_hz), **asks)


def asked_of(cue: Cue, length_flicks: int | None = None) -> BriefDocument:
    """What a cue asks for now, perhaps with another length."""
    return BriefDocument(length_flicks=length_flicks or cue.slot_length_flicks, **(cue.asks or {}))


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
