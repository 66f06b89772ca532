"""Media as files through fsspec, named by the hash of the content they come from.

originals/  the file as it came in          sound/   its samples, raw float32, channels side by side
peaks/      its waveform as .dat            charts/  what was heard in it, and what its joins cost
films/      films as they came in, copies for browsers, small pictures, and what every frame looks like
renders/    finished files
"""

import shutil
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import fsspec

from evenseam.core.chart import CHART_VERSION
from evenseam.core.plan import PLANNER_VERSION


def original_name(sha256: str, suffix: str) -> str:
    """The file as it came in."""
    return f"originals/{sha256[:2]}/{sha256}{suffix}"


def sound_name(sha256: str) -> str:
    """Decoded samples: raw little-endian float32 (samples, channels)."""
    return f"sound/{sha256[:2]}/{sha256}.f32"


def peaks_name(sha256: str) -> str:
    """Waveform for drawing."""
    return f"peaks/{sha256[:2]}/{sha256}.dat"


def chart_name(sha256: str) -> str:
    """Chart, of the present version."""
    return f"charts/{sha256[:2]}/{sha256}.v{CHART_VERSION}.npz"


def joins_name(sha256: str) -> str:
    """What the best joins cost, by the present chart and planner."""
    return f"charts/{sha256[:2]}/{sha256}.v{CHART_VERSION}.{PLANNER_VERSION}.moves"


def forecast_name(sha256: str) -> str:
    """How it would do in any slot, by the present chart and planner."""
    return f"charts/{sha256[:2]}/{sha256}.v{CHART_VERSION}.{PLANNER_VERSION}.forecast"


def heard_name(sha256: str) -> str:
    """What was heard before any beat was named."""
    return f"charts/{sha256[:2]}/{sha256}.v{CHART_VERSION}.heard"


def cover_name(sha256: str, suffix: str) -> str:
    """The cover picture that came inside the file."""
    return f"covers/{sha256[:2]}/{sha256}{suffix}"


def film_name(sha256: str, suffix: str) -> str:
    """A film as it came in."""
    return f"films/{sha256[:2]}/{sha256}{suffix}"


def film_copy_name(sha256: str) -> str:
    """The copy of a film that browsers play."""
    return f"films/{sha256[:2]}/{sha256}.copy.mp4"


def thumbs_name(sha256: str) -> str:
    """The sheet of small pictures of a film."""
    return f"films/{sha256[:2]}/{sha256}.thumbs.jpg"


def likeness_name(sha256: str) -> str:
    """What every frame of a film looks like in a few squares, as NumPy writes it."""
    return f"films/{sha256[:2]}/{sha256}.likeness.npy"


def film_derived_names(sha256: str) -> tuple[str, ...]:
    """Everything made from a film."""
    return film_copy_name(sha256), thumbs_name(sha256), likeness_name(sha256)


def derived_names(sha256: str) -> tuple[str, ...]:
    """Everything made from a recording."""
    return (
        sound_name(sha256),
        peaks_name(sha256),
        chart_name(sha256),
        joins_name(sha256),
        heard_name(sha256),
        forecast_name(sha256),
    )


class MediaStore:
    """Files under one fsspec location. Writes are whole or not at all."""

    def __init__(self, location: str, cache_dir: Path) -> None:
        self._fs, self._root = fsspec.core.url_to_fs(location)
        self._cache_dir = cache_dir
        self._is_local = "file" in (self._fs.protocol if isinstance(self._fs.protocol, tuple) else (self._fs.protocol,))

    def _path(self, name: str) -> str:
        return f"{self._root}/{name}"

    def _part(self, name: str) -> str:
        """Where a file is written before it is there: two writers of the same name do not meet."""
        return f"{self._path(name)}.{uuid4().hex}.part"

    def exists(self, name: str) -> bool:
        """Whether a file is there."""
        return bool(self._fs.exists(self._path(name)))

    def put_file(self, source: Path, name: str) -> None:
        """Move a local file in under a name."""
        self._fs.makedirs(str(Path(self._path(name)).parent), exist_ok=True)
        if self._is_local:
            part = Path(self._part(name))
            shutil.move(source, part)
            part.replace(self._path(name))
        else:
            self._fs.put_file(str(source), self._path(name))
            source.unlink()

    def take_in(self, upload: Path, name: str) -> None:
        """Move an upload in under the name of its content; one whose content is there already is only removed."""
        if self.exists(name):
            upload.unlink(missing_ok=True)
        else:
            self.put_file(upload, name)

    def put_bytes(self, data: bytes, name: str) -> None:
        """Write a small file."""
        self._fs.makedirs(str(Path(self._path(name)).parent), exist_ok=True)
        part = self._part(name)
        with self._fs.open(part, "wb") as file:
            file.write(data)
        self._fs.mv(part, self._path(name))

    def read(self, name: str) -> bytes:
        """The whole of a small file. Raises: FileNotFoundError."""
        return bytes(self._fs.cat_file(self._path(name)))

    def local_path(self, name: str) -> Path:
        """A path on this machine to a file, fetched first when the store is elsewhere. Raises: FileNotFoundError."""
        if self._is_local:
            path = Path(self._path(name))
            if not path.is_file():
                raise FileNotFoundError(name)
            return path
        copy = self._cache_dir / name
        if not copy.exists():
            copy.parent.mkdir(parents=True, exist_ok=True)
            part = Path(f"{copy}.{uuid4().hex}.part")
            self._fs.get_file(self._path(name), str(part))
            part.replace(copy)
        return copy

    def files(self) -> Iterator[tuple[str, datetime]]:
        """The name of every file, and when it was last changed (UTC)."""
        root = self._root.rstrip("/")
        for path in self._fs.find(root):
            changed = self._fs.modified(path)
            yield str(path)[len(root) + 1 :], changed if changed.tzinfo else changed.replace(tzinfo=UTC)

    def remove(self, name: str) -> None:
        """Remove a file, if it is there."""
        if self._fs.exists(self._path(name)):
            self._fs.rm_file(self._path(name))
