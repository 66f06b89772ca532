"""Files that come in as the body of a request."""

import asyncio
import hashlib
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi import Request
from starlette.requests import ClientDisconnect

from evenseam.api.problems import UploadBrokenError
from evenseam.core.errors import TooLargeError
from evenseam.services.context import Context
from evenseam.services.incoming import SNIFF_BYTES, check_limit

MOST_MARKS_BYTES = 20_000_000
BODY_IS_A_FILE: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


async def receive(context: Context, request: Request, check_head: Callable[[bytes], None]) -> tuple[Path, str]:
    """The body in a scratch file, and its SHA-256. Nothing stays behind when it is refused or breaks off.

    `check_head` refuses by the first bytes, as soon as they are there.
    """
    digest, size, head = hashlib.sha256(), 0, b""
    with tempfile.NamedTemporaryFile(dir=context.settings.scratch_dir, prefix="upload-", delete=False) as file:
        path = Path(file.name)
        try:
            async for chunk in request.stream():
                if len(head) < SNIFF_BYTES and chunk:
                    head += chunk[:SNIFF_BYTES]
                    if len(head) >= SNIFF_BYTES:
                        check_head(head)
                size += len(chunk)
                check_limit(context, size)
                digest.update(chunk)
                await asyncio.to_thread(file.write, chunk)
            check_head(head)
        except ClientDisconnect:
            path.unlink(missing_ok=True)
            raise UploadBrokenError("The upload broke off. Add the file again.") from None
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    return path, digest.hexdigest()


async def receive_small(request: Request) -> bytes:
    """The body of a list of marks. Raises: TooLargeError, UploadBrokenError."""
    data = bytearray()
    try:
        async for chunk in request.stream():
            data += chunk
            if len(data) > MOST_MARKS_BYTES:
                raise TooLargeError("The file is too large to be a list of marks.")
    except ClientDisconnect:
        raise UploadBrokenError("The upload broke off. Add the file again.") from None
    return bytes(data)
