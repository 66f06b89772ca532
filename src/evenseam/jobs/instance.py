"""One application a data folder: a second one would take the first one's jobs and its database."""

import contextlib
import fcntl
import shutil
from collections.abc import Iterator
from uuid import uuid4

from evenseam.core.errors import SetUpError
from evenseam.settings import Settings

_KEPT_SCRATCH = "cache"  # copies of remote media are as good as before


@contextlib.contextmanager
def alone_on(settings: Settings) -> Iterator[None]:
    """Hold the data folder for as long as this lasts. Raises: SetUpError in one line when another one holds it."""
    settings.absolute_data_dir.mkdir(parents=True, exist_ok=True)
    with (settings.absolute_data_dir / "in-use").open("a") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise SetUpError(
                f"Even Seam runs already on {settings.absolute_data_dir}. Use that one, stop it, or set EVENSEAM_DATA_DIR."
            ) from None
        yield


def instance_id(settings: Settings) -> str:
    """Names whoever runs on this data folder, now and after the next start: what it leased before is its own again."""
    kept = settings.absolute_data_dir / "instance"
    with contextlib.suppress(FileNotFoundError):
        return kept.read_text().strip()
    settings.absolute_data_dir.mkdir(parents=True, exist_ok=True)
    kept.write_text(uuid4().hex)
    return kept.read_text()


def clear_scratch(settings: Settings) -> None:
    """Remove what uploads, jobs and workers of an earlier run left behind."""
    settings.scratch_dir.mkdir(parents=True, exist_ok=True)
    for left in settings.scratch_dir.iterdir():
        if left.name == _KEPT_SCRATCH:
            continue
        if left.is_dir() and not left.is_symlink():
            shutil.rmtree(left, ignore_errors=True)
        else:
            left.unlink(missing_ok=True)
