"""What is played: stretches of fits and tracks at the rate the page asks for, and prints made ahead in the background."""

import logging
import os
import tempfile
from dataclasses import dataclass
from pathlib import Path
from threading import Condition, Thread

import numpy as np
from cachetools import LRUCache

from evenseam.core.audio import Sound
from evenseam.core.errors import EvenSeamError
from evenseam.core.plan import Plan
from evenseam.core.render import Mixdown, Preview, Recorded, Shelf, alone
from evenseam.core.render.click import with_clicks
from evenseam.services.planners import WarmTrack

_log = logging.getLogger(__name__)
_LONGEST_S = 30
_MOST_OPEN = 16


class StretchRefusedError(EvenSeamError):
    """A stretch of sound was asked for that is not there, or that is too long."""

    code = "stretch_refused"


@dataclass(frozen=True, slots=True)
class Stretch:
    """What is to be played: samples [start, stop) at `rate` (None: its own). `after_draft`: what was heard before was one."""

    start: int
    stop: int
    rate: int | None = None
    after_draft: bool = False


class Previews:
    """The fits played last. One thread makes the print of what was asked for last while it is heard."""

    def __init__(self, scratch_dir: Path) -> None:
        self._scratch_dir = scratch_dir
        self._shelf = Shelf(self._allocate)
        self._open: LRUCache[tuple[int, int], Preview] = LRUCache(_MOST_OPEN)
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
        preview = self._preview(fit_id, plan, warm, sha256, wanted.rate or plan.rate)
        start, stop = _inside(wanted, preview.rate, preview.n_samples)
        sound, is_print = preview.block(start, stop, wanted.after_draft)
        self._make_soon(preview)
        return sound, is_print

    def _preview(self, fit_id: int, plan: Plan, warm: WarmTrack, sha256: str, rate: int) -> Preview:
        with self._wake:
            key = (fit_id, rate)
            if key not in self._open:
                self._open[key] = Preview(plan, warm.samples, sha256, self._shelf, rate)
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


def play_track(warm: WarmTrack, wanted: Stretch, click: bool) -> Sound:
    """A stretch of a track, with a click on its beats if wanted. Raises: StretchRefusedError."""
    chart = warm.chart
    rate = wanted.rate or chart.rate
    n_samples = -(-chart.n_samples * rate // chart.rate)
    start, stop = _inside(wanted, rate, n_samples)
    programme = alone("track", rate, int(warm.samples.shape[0]), n_samples)
    sound = Mixdown(programme, {"track": Recorded(warm.samples, chart.rate)}).block(start, stop)
    if click and not chart.free_time:
        beats = np.rint(chart.beats * (rate / chart.rate)).astype(np.int64)
        sound = with_clicks(sound, start, rate, beats, chart.beat_in_bar)
    return sound


def _inside(wanted: Stretch, rate: int, n_samples: int) -> tuple[int, int]:
    stop = min(wanted.stop, n_samples)
    if not wanted.start < stop <= wanted.start + _LONGEST_S * rate:
        raise StretchRefusedError(f"Ask for a stretch inside the sound of at most {_LONGEST_S} seconds.")
    return wanted.start, stop
