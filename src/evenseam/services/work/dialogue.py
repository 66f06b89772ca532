"""Finding dialogue in a sound, and marking it as lines on a picture."""

from functools import partial
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.audio.sound import mapped
from evenseam.core.errors import SpotError
from evenseam.core.spot import Line
from evenseam.core.spot.speech import find_lines
from evenseam.core.timebase import FrameRate
from evenseam.jobs.kinds import Afterwards, Call, JobKind
from evenseam.jobs.worker import MediaPlace, tell
from evenseam.services.context import Context
from evenseam.services.sheets import add_spoken, announce
from evenseam.store.media import sound_name
from evenseam.store.models import Job
from evenseam.store.productions import get_picture
from evenseam.store.sheets import rate_of
from evenseam.store.tracks import get_track

_NOBODY = "Nobody was heard speaking in this sound. Mark the lines by hand, or read them from a file."


def find_spoken(
    job_id: int, place: MediaPlace, sound: tuple[str, int, int], rate: FrameRate, length_frames: int, at_frames: int
) -> list[tuple[int, int]]:
    """Where somebody speaks in a sound (hash, channels, Hz), in frames of a picture. Raises: SpotError if nobody does."""
    sha256, channels, rate_hz = sound
    samples = mapped(place.open().local_path(sound_name(sha256)), channels)
    lines = find_lines(samples, rate_hz, rate, length_frames, at_frames, lambda share: tell(job_id, share, "Finding dialogue"))
    if not lines:
        raise SpotError(_NOBODY)
    return [(line.start_frames, line.end_frames) for line in lines]


class FindingDialogue(JobKind):
    """Subject: a picture. Asked: `track_id` of the sound, and `at_frames`, on which it starts."""

    name = "dialogue"
    is_urgent = True

    def __init__(self, context: Context) -> None:
        self._context = context

    def prepare(self, session: Session, job: Job, place: MediaPlace) -> Call:
        """The sound as it was decoded when it was listened to."""
        asked = job.asked or {}
        picture, recording = get_picture(session, job.subject_id), get_track(session, asked["track_id"]).recording
        sound = (recording.sha256, recording.channels or 1, recording.rate_hz or 0)
        return partial(find_spoken, job.id, place, sound, rate_of(picture), picture.length_frames, asked["at_frames"])

    def keep(self, session: Session, job: Job, result: Any) -> Afterwards:
        """Lines where none was marked before; one step of undo."""
        added = add_spoken(session, get_picture(session, job.subject_id), tuple(Line(*span) for span in result))
        job.told = f"{added} line{'' if added == 1 else 's'}" if added else "no line that was not marked already"
        return lambda: announce(self._context, job.production_id, job.subject_id)


KIND = FindingDialogue
