"""Planners kept warm, so that a change is answered at once."""

from dataclasses import dataclass

from evenseam.core.audio.sound import Sound, mapped
from evenseam.core.chart import CHART_VERSION, Chart, Corrections
from evenseam.core.keeping import Kept
from evenseam.core.listen import Heard, corrected
from evenseam.core.plan.judging.forecast import Forecast
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.joins import Joins
from evenseam.store.errors import NotReadyError
from evenseam.store.media import MediaStore, chart_name, forecast_name, heard_name, joins_name, sound_name
from evenseam.store.models import Track

_MOST_KEPT, _MOST_HEARD, _MOST_FORECASTS = 24, 3, 4000
_Key = tuple[str, ...]  # of a recording its hash, and which hearing and corrections


@dataclass(frozen=True, slots=True)
class WarmTrack:
    """All that planning and preview need of a track: its sound is a memory map, read where it is needed."""

    chart: Chart
    samples: Sound
    planner: Planner


@dataclass(frozen=True, slots=True)
class Uncorrected:
    """What was heard in a recording, uncorrected."""

    chart: Chart
    heard: Heard


class PlannerPool:
    """The tracks used last, ready to plan, each with its corrections. Safe for several threads."""

    def __init__(self, media: MediaStore) -> None:
        self._media = media
        self._warm: Kept[_Key, WarmTrack] = Kept(_MOST_KEPT)
        self._heard: Kept[_Key, Uncorrected] = Kept(_MOST_HEARD)
        self._forecasts: Kept[_Key, Forecast] = Kept(_MOST_FORECASTS)

    def get(self, track: Track) -> WarmTrack:
        """A warm track with its corrections. Raises: NotReadyError while it has not been listened to."""
        sha256, hearing, channels = _ready(track)
        stored = track.corrections
        return self._warm.get(
            (sha256, hearing, track.corrections_digest), lambda: self._load(sha256, hearing, channels, stored)
        )

    def uncorrected(self, track: Track) -> Uncorrected:
        """What was heard in a track, without its corrections. Raises: as `get`."""
        sha256, hearing, _ = _ready(track)
        return self._heard.get((sha256, hearing), lambda: self._load_heard(sha256))

    def forecast(self, track: Track) -> Forecast:
        """How a track would do in any slot. Raises: as `get`."""
        sha256, hearing, _ = _ready(track)
        key = (sha256, hearing, track.corrections_digest)
        return self._forecasts.get(key, lambda: self._load_forecast(track))

    def _load_forecast(self, track: Track) -> Forecast:
        """As it was made when the track was listened to; made now for one that was corrected since."""
        name = forecast_name(track.sha256)
        if Corrections.from_dict(track.corrections) == Corrections() and self._media.exists(name):
            return Forecast.from_bytes(self._media.read(name))
        return self.get(track).planner.forecast()

    def samples(self, track: Track) -> Sound:
        """The sound of a track alone, as a memory map. Raises: as `get`."""
        sha256, _, channels = _ready(track)
        return mapped(self._media.local_path(sound_name(sha256)), channels)

    def forget(self, sha256: str) -> None:
        """Let go of a recording that was deleted."""
        for kept in (self._warm, self._heard, self._forecasts):
            kept.forget(lambda key: key[0] == sha256)

    def _load(self, sha256: str, hearing: str, channels: int, stored: dict[str, object] | None) -> WarmTrack:
        corrections = Corrections.from_dict(stored)
        samples = mapped(self._media.local_path(sound_name(sha256)), channels)
        if corrections == Corrections():
            chart = Chart.from_bytes(self._media.read(chart_name(sha256)))
        else:
            heard = self._heard.get((sha256, hearing), lambda: self._load_heard(sha256))
            chart = corrected(heard.chart, heard.heard, corrections)
        joins = self._joins(sha256, chart) if corrections.grid is None else None
        return WarmTrack(chart, samples, Planner(chart, samples, joins, corrections.marks))

    def _joins(self, sha256: str, chart: Chart) -> Joins | None:
        """What was weighed for the beats that were heard, if the file is there: it is weighed again in a moment if not."""
        name = joins_name(sha256)
        return Joins.from_bytes(chart, self._media.read(name)) if self._media.exists(name) else None

    def _load_heard(self, sha256: str) -> Uncorrected:
        chart, heard = self._media.read(chart_name(sha256)), self._media.read(heard_name(sha256))
        return Uncorrected(Chart.from_bytes(chart), Heard.from_bytes(heard))


def _ready(track: Track) -> tuple[str, str, int]:
    """Hash, hearing and channels of a track that was listened to."""
    recording = track.recording
    if recording.chart_version != CHART_VERSION or recording.channels is None:
        raise NotReadyError("This track is still being listened to. It can be fitted in a moment.")
    return recording.sha256, str(recording.hearings), recording.channels
