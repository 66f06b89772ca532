"""uvicorn, as it serves here: it looks twice a second whether it is to end, not ten times."""

import asyncio
import contextlib
import sys
from typing import Any

import uvicorn

_LOOK_S, _COUNTS_A_LOOK = 0.5, 5
_STARTING_FAILED = 3


class _Server(uvicorn.Server):
    """A server that costs next to nothing while nobody asks."""

    async def main_loop(self) -> None:
        counter = 0
        while not await self.on_tick(counter):
            counter += _COUNTS_A_LOOK  # uvicorn counts tenths of a second
            await asyncio.sleep(_LOOK_S)


def serve(app: Any, **config: Any) -> None:
    """Serve an ASGI application until told to stop, as `uvicorn.run` does."""
    server = _Server(uvicorn.Config(app, **config))
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    if not server.started:
        sys.exit(_STARTING_FAILED)
