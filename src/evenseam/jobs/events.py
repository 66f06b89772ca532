"""What the server tells open pages: small events, to every listener, from any thread."""

import asyncio
from collections.abc import AsyncIterator
from typing import Any

_MOST_WAITING = 1000


class EventBus:
    """Publish from any thread; each listener has a queue of its own in the event loop."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._queues: set[asyncio.Queue[dict[str, Any]]] = set()

    def bind(self, loop: asyncio.AbstractEventLoop) -> None:
        """Name the event loop the listeners live in."""
        self._loop = loop

    def publish(self, kind: str, **values: Any) -> None:
        """Tell every listener. A listener that does not keep up misses events and not the server its memory."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._put, {"kind": kind, **values})

    def _put(self, event: dict[str, Any]) -> None:
        for queue in self._queues:
            if queue.qsize() < _MOST_WAITING:
                queue.put_nowait(event)

    async def listen(self) -> AsyncIterator[dict[str, Any]]:
        """Events from now on."""
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        self._queues.add(queue)
        try:
            while True:
                yield await queue.get()
        finally:
            self._queues.discard(queue)
