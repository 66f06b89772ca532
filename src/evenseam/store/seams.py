"""What was said of the seams of a cue: by its recording and by name, told again by where their beats are now."""

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.plan import MOST_NAMED_SEAMS, SeamName
from evenseam.core.plan.seams import Beats, by_places
from evenseam.store.errors import ConflictError
from evenseam.store.history import Thing
from evenseam.store.models import Cue, CueSeam

_SAID = ("verdict", "words", "wish", "moved_leaves_samples", "moved_enters_samples")


def said_of(cue: Cue, sha256: str, beats: Beats) -> dict[tuple[int, int], CueSeam]:
    """What was said of the seams of a cue and a recording, by the beats that they leave and enter now."""
    return by_places(((SeamName(*s.name), s) for s in cue.seams if s.sha256 == sha256), beats)


def seam_of(session: Session, cue: Cue, sha256: str, name: SeamName, beats: Beats) -> CueSeam:
    """The row of a seam, made now if nothing was said of it yet; it is named by where its beats are."""
    found = said_of(cue, sha256, beats).get(name.places(beats))
    return found or _added(session, cue, sha256, name.on(beats))


def wished(
    session: Session, cue: Cue, sha256: str, wishes: Mapping[tuple[int, int], str]
) -> list[tuple[Thing, dict[str, Any]]]:
    """What has to change for the fits of a cue and a recording to be asked for these seams, by name, and for no others."""
    rows = {s.name: s for s in cue.seams if s.sha256 == sha256}
    for name in wishes:
        if name not in rows:
            rows[name] = _added(session, cue, sha256, SeamName(*name))
    return [(row, {"wish": wishes.get(name, "")}) for name, row in rows.items()]


def copy_seams(session: Session, was: Cue, onto: Cue, kept: Mapping[tuple[int, int], str]) -> None:
    """Have all that was said of the seams of a cue hold for its copy, and some more of them wished for where nothing was."""
    for seam in was.seams:
        row = _added(session, onto, seam.sha256, SeamName(*seam.name))
        for field in _SAID:
            setattr(row, field, getattr(seam, field))
    said = {(s.sha256, s.name): s for s in onto.seams}
    for name, wish in kept.items():
        assert was.track is not None
        row = said.get((was.track.sha256, name)) or _added(session, onto, was.track.sha256, SeamName(*name))
        row.wish = row.wish or wish


def check_count(cue: Cue, sha256: str) -> None:
    """Raises: ConflictError where more seams are wished for than a brief can name."""
    wishes = [s.wish for s in cue.seams if s.sha256 == sha256]
    if max(sum(wish in named for wish in wishes) for named in (("kept", "moved"), ("forbidden", "moved"))) > MOST_NAMED_SEAMS:
        raise ConflictError(f"No more than {MOST_NAMED_SEAMS} seams can be kept, and as many left out. Let some go first.")


def _added(session: Session, cue: Cue, sha256: str, name: SeamName) -> CueSeam:
    row = CueSeam(
        sha256=sha256, leaves_samples=name.leaves_samples, enters_samples=name.enters_samples, verdict="", words="", wish="",
        revision=0,
    )  # fmt: skip
    cue.seams.append(row)
    session.flush()
    return row
