"""What is played: stretches of fits and tracks at the rate the page asks for, and prints made ahead in the background."""

import logging
import os
import tempfile
from dataclasses import dataclass
from pathlib import Path
from threading import Condition, Thread

import numpy as np
from cachetools import LRUCache

from evenseam.core.audio.sound import Sound
from evenseam.core.chart import Chart
from evenseam.core.errors import EvenSeamError
from evenseam.core.plan import Plan
from evenseam.core.render import Mixdown, Preview, Recorded, Shelf, alone
from evenseam.core.render.arranging import n_at
from evenseam.core.render.click import Clicks
from evenseam.core.render.mixdown import Playable
from evenseam.services.planners import WarmTrack

_log = logging.getLogger(__name__)
_LONGEST_S = 30
_MOST_OPEN = 16


class StretchRefusedError(EvenSeamError):
    """A stretch of sound was asked for that is not there, or that is too long."""

    code = "stretch_refused"


@dataclass(frozen=True, slots=True)
class Stretch:
    """What is to be played: samples [start, stop) at `rate` (None: its own), counted from one of its own samples on.

    `after_draft`: what was heard before was one.
    """

    start: int
    stop: int
    rate: int | None = None
    from_samples: int = 0
    after_draft: bool = False


class Previews:
    """The fits played last. One thread makes the print of what was asked for last while it is heard."""

    def __init__(self, scratch_dir: Path) -> None:
        self._scratch_dir = scratch_dir
        self._shelf = Shelf(self._allocate)
        self._open: LRUCache[tuple[int, int, int], Preview] = LRUCache(_MOST_OPEN)
        self._work: list[Preview] = []
        self._wake = Condition()
        self._is_open = True
        self._thread = Thread(target=self._make_prints, name="prints", daemon=True)
        self._thread.start()

    def close(self) -> None:
        """Stop making prints."""
        with self._wake:
            self._is_open = False
            self._wake.notify_all()
        self._thread.join()

    def play(self, fit_id: int, opened: tuple[Plan, WarmTrack, str], wanted: Stretch) -> tuple[Sound, bool]:
        """A stretch of a fit, and whether it is that of its print. Raises: StretchRefusedError."""
        plan, warm, sha256 = opened
        preview = self._preview((fit_id, wanted.rate or plan.rate, wanted.from_samples), plan, warm, sha256)
        start, stop = _inside(wanted, preview.rate, preview.n_samples)
        sound, is_print = preview.block(start, stop, wanted.after_draft)
        self._make_soon(preview)
        return sound, is_print

    def _preview(self, key: tuple[int, int, int], plan: Plan, warm: WarmTrack, sha256: str) -> Preview:
        with self._wake:
            if key not in self._open:
                _, rate, from_samples = key
                self._open[key] = Preview(plan, warm.samples, sha256, self._shelf, rate, from_samples)
            return self._open[key]

    def _make_soon(self, preview: Preview) -> None:
        with self._wake:
            self._work = [*(p for p in self._work if p is not preview), preview][-_MOST_OPEN:]
            self._wake.notify_all()

    def _make_prints(self) -> None:
        while True:
            with self._wake:
                while self._is_open and not self._work:
                    self._wake.wait()
                if not self._is_open:
                    return
                preview = self._work[-1]
            if self._has_more(preview):
                continue
            with self._wake:
                self._work = [p for p in self._work if p is not preview]

    @staticmethod
    def _has_more(preview: Preview) -> bool:
        try:
            return preview.make_more()
        except Exception:  # what is wrong is told where the sound is asked for
            _log.exception("a print could not be made ahead")
            return False

    def _allocate(self, channels: int, n_samples: int) -> Sound:
        """Room on the disk that is really there, in a file without a name: it is gone when nobody uses it any more."""
        with tempfile.TemporaryFile(dir=self._scratch_dir) as file:
            os.posix_fallocate(file.fileno(), 0, 4 * channels * n_samples)
            return np.memmap(file, dtype=np.float32, mode="r+", shape=(channels, n_samples))


def play_track(warm: WarmTrack, wanted: Stretch) -> Sound:
    """A stretch of a track. Raises: StretchRefusedError."""
    return _played(Recorded(warm.samples, warm.chart.rate), warm.chart.n_samples, wanted)


def play_click(warm: WarmTrack, wanted: Stretch) -> Sound:
    """A stretch of clicks on the beats of a track, silence in free time. Raises: StretchRefusedError."""
    return _played(clicks_of(warm.chart, warm.chart.rate), warm.chart.n_samples, wanted)


def _played(sound: Playable, n_samples: int, wanted: Stretch) -> Sound:
    rate = wanted.rate or sound.rate
    length = n_at(n_samples - wanted.from_samples, sound.rate, rate)
    start, stop = _inside(wanted, rate, length)
    programme = alone("sound", rate, sound.channels, length, wanted.from_samples)
    return Mixdown(programme, {"sound": sound}).block(start, stop)


def clicks_of(chart: Chart, rate: int) -> Clicks:
    """Clicks on the beats of a chart; none in free time."""
    beats, place = (chart.beats[:0], chart.beat_in_bar[:0]) if chart.free_time else (chart.beats, chart.beat_in_bar)
    return Clicks(rate, beats, place, chart.rate)


def _inside(wanted: Stretch, rate: int, n_samples: int) -> tuple[int, int]:
    stop = min(wanted.stop, n_samples)
    if not wanted.start < stop <= wanted.start + _LONGEST_S * rate:
        raise StretchRefusedError(f"Ask for a stretch inside the sound of at most {_LONGEST_S} seconds.")
    return wanted.start, stop
