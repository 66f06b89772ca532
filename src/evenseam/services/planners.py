"""Planners kept warm, so that a change is answered at once."""

from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock

from evenseam.core.audio import Sound
from evenseam.core.listen import CHART_VERSION, Chart
from evenseam.core.plan import Planner
from evenseam.core.plan.joins import Joins
from evenseam.core.render import SpanCache
from evenseam.jobs.tasks import sound_of
from evenseam.store.errors import NotReadyError
from evenseam.store.media import MediaStore, chart_name, joins_name, sound_name
from evenseam.store.models import Recording

_MOST_KEPT = 24


@dataclass(frozen=True, slots=True)
class WarmTrack:
    """All that planning and preview need of a recording: its sound is a memory map, read where it is needed."""

    chart: Chart
    samples: Sound
    planner: Planner
    spans: SpanCache = field(default_factory=SpanCache)


class PlannerPool:
    """The tracks used last, ready to plan. Safe for several threads."""

    def __init__(self, media: MediaStore) -> None:
        self._media = media
        self._warm: OrderedDict[str, WarmTrack] = OrderedDict()
        self._lock = Lock()

    def get(self, recording: Recording) -> WarmTrack:
        """The warm track of a recording. Raises: NotReadyError while it has not been listened to."""
        if recording.chart_version != CHART_VERSION or recording.channels is None:
            raise NotReadyError("This track is still being listened to. It can be fitted in a moment.")
        with self._lock:
            if recording.sha256 in self._warm:
                self._warm.move_to_end(recording.sha256)
                return self._warm[recording.sha256]
        warm = self._load(recording.sha256, recording.channels)
        with self._lock:
            self._warm[recording.sha256] = warm
            while len(self._warm) > _MOST_KEPT:
                self._warm.popitem(last=False)
        return warm

    def forget(self, sha256: str) -> None:
        """Let go of a recording that was deleted."""
        with self._lock:
            self._warm.pop(sha256, None)

    def _load(self, sha256: str, channels: int) -> WarmTrack:
        chart = Chart.from_bytes(self._media.read(chart_name(sha256)))
        weighed = joins_name(sha256)
        joins = Joins.from_bytes(self._media.read(weighed)) if self._media.exists(weighed) else None
        samples = sound_of(self._media.local_path(sound_name(sha256)), channels)
        return WarmTrack(chart, samples, Planner(chart, samples, joins))
