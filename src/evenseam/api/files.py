"""Files that go out as answers."""

import tempfile
from collections.abc import Callable
from pathlib import Path
from urllib.parse import quote

from fastapi import Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from evenseam.services.context import Context


def download(data: bytes, name: str) -> Response:
    """Bytes under a name."""
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return Response(data, media_type="application/octet-stream", headers=headers)


def made_wav(context: Context, write: Callable[[Path], str]) -> FileResponse:
    """A WAV file that is written now, with the name that `write` gives it, and gone once it was sent."""
    with tempfile.NamedTemporaryFile(dir=context.settings.scratch_dir, suffix=".wav", delete=False) as file:
        path = Path(file.name)
    try:
        name = write(path)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return FileResponse(path, media_type="audio/wav", filename=name, background=BackgroundTask(path.unlink, missing_ok=True))
