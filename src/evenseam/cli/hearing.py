"""Recordings without a server: heard from a file once, and what was heard kept by content in the platform's cache folder."""

import contextlib
import hashlib
import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING
from zipfile import BadZipFile

from evenseam.core.errors import FileRefusedError

if TYPE_CHECKING:  # loaded when something is heard or planned: other commands start without
    from evenseam.core.audio.sound import Sound
    from evenseam.core.chart import Chart
    from evenseam.core.plan.search.joins import Joins

LIMIT_VARIABLE, USUAL_LIMIT_MB = "EVENSEAM_CACHE_MB", 4000
_PART_LEFT_S = 24 * 3600
_SOUND, _CHART, _JOINS = "sound.f32", "chart.npz", "joins.npz"


@dataclass(frozen=True, slots=True)
class HeardFile:
    """A recording that was heard: its samples are a map of a file, so that hours of them need no memory."""

    chart: "Chart"
    samples: "Sound"
    joins: "Joins"
    was_kept: bool


@dataclass(frozen=True, slots=True)
class HearingCache:
    """A folder of what was heard, by chart version and content; what was used last stays, up to `most_bytes`."""

    folder: Path
    most_bytes: int

    @classmethod
    def usual(cls) -> "HearingCache":
        """That of the platform, as large as the environment says (0: none). Raises: FileRefusedError for no number."""
        import platformdirs

        said = os.environ.get(LIMIT_VARIABLE, str(USUAL_LIMIT_MB))
        if not said.isascii() or not said.isdecimal():
            raise FileRefusedError(f"{LIMIT_VARIABLE} is '{said}'. Give how many megabytes may be kept, or 0 for none.")
        return cls(platformdirs.user_cache_path("evenseam"), int(said) * 1_000_000)

    def open(self, audio: Path) -> HeardFile:
        """What was heard in a file, now or before. Raises: AudioUnreadableError, ListenError."""
        place = self._place(audio)
        if place.is_dir():
            with contextlib.suppress(OSError, ValueError, KeyError, BadZipFile):
                os.utime(place)
                return _opened(place, was_kept=True)
            shutil.rmtree(place)  # it was damaged
        place.parent.mkdir(parents=True, exist_ok=True)
        part = Path(tempfile.mkdtemp(dir=place.parent, prefix="part-"))
        try:
            heard = hear(audio, part)
            if _size(part) <= self.most_bytes:
                with contextlib.suppress(OSError):  # another process was faster, and its folder is as good
                    part.rename(place)
                    self._make_room(place)
            return heard
        finally:
            shutil.rmtree(part, ignore_errors=True)  # what is mapped stays readable

    def _place(self, audio: Path) -> Path:
        from evenseam.core.audio.sound import check_is_file
        from evenseam.core.chart import CHART_VERSION

        check_is_file(audio)
        with audio.open("rb") as file:
            name = hashlib.file_digest(file, "sha256").hexdigest()
        return self.folder / f"charts-{CHART_VERSION}" / name

    def _make_room(self, newest: Path) -> None:
        """What was heard by earlier versions goes, and what was not used for longest."""
        for other in self.folder.glob("charts-*"):
            if other != newest.parent:
                shutil.rmtree(other, ignore_errors=True)
        for part in newest.parent.glob("part-*"):  # of a process that was ended in the middle
            if time.time() - part.stat().st_mtime > _PART_LEFT_S:
                shutil.rmtree(part, ignore_errors=True)
        kept = sorted(newest.parent.glob("[0-9a-f]*"), key=lambda place: place.stat().st_mtime, reverse=True)
        left = self.most_bytes
        for place in kept:
            left -= _size(place)
            if left < 0 and place != newest:
                shutil.rmtree(place, ignore_errors=True)


@contextlib.contextmanager
def heard(audio: Path, is_cached: bool = True) -> Iterator[HeardFile]:
    """What was heard in a file, for as long as it is used; kept for the next time where that is wanted and there is room."""
    cache = HearingCache.usual() if is_cached else None
    if cache is not None and cache.most_bytes:
        try:
            found = cache.open(audio)
        except OSError:  # nothing can be kept there
            found = None
        if found is not None:
            yield found
            return
    with tempfile.TemporaryDirectory() as folder:
        yield hear(audio, Path(folder))


def hear(audio: Path, into: Path) -> HeardFile:
    """Hear a file, and leave what was heard in a folder. Raises: AudioUnreadableError, ListenError."""
    from evenseam.core.audio.decode import open_stream
    from evenseam.core.listen import TakingIn, chart_of
    from evenseam.core.plan.search.joins import Joins

    stream = open_stream(audio)
    taking = TakingIn(stream.rate, stream.channels)
    with (into / _SOUND).open("wb") as file:
        for block in stream.blocks:
            block.T.tofile(file)
            taking.push(block)
    chart = chart_of(taking.finish())
    (into / _CHART).write_bytes(chart.to_bytes())
    (into / _JOINS).write_bytes(Joins(chart).to_bytes())
    return _opened(into, was_kept=False)  # as it is kept: the first fit of a file is that of every later time


def _opened(place: Path, was_kept: bool) -> HeardFile:
    from evenseam.core.audio.sound import mapped
    from evenseam.core.chart import Chart
    from evenseam.core.plan.search.joins import Joins

    chart = Chart.from_bytes((place / _CHART).read_bytes())
    channels = (place / _SOUND).stat().st_size // (4 * chart.n_samples)
    return HeardFile(chart, mapped(place / _SOUND, channels), Joins.from_bytes(chart, (place / _JOINS).read_bytes()), was_kept)


def _size(place: Path) -> int:
    return sum(file.stat().st_size for file in place.iterdir())
