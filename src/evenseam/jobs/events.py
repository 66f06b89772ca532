"""What the server tells open pages: small events, to every listener, from any thread and any process."""

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator, Callable
from queue import Empty, Full, Queue
from threading import Event as Flag
from threading import Thread
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from evenseam.store import events as rows
from evenseam.store.database import Database

_log = logging.getLogger(__name__)
_MOST_WAITING = 1000
_LOOK_S = 1.0
_OVERLAP = 200  # events are looked for this far back: a lower number may be committed after a higher one
_FORGET_EVERY = 300
_CHANGES_SOUND = frozenset({"production", "fit", "tracks"})  # cues, pictures and mixes are told of as their production

Event = dict[str, Any]


class EventBus:
    """Publish from any thread; each listener has a queue of its own in the event loop."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._queues: set[asyncio.Queue[Event]] = set()
        self.to_others: Callable[[Event], None] | None = None

    def bind(self, loop: asyncio.AbstractEventLoop) -> None:
        """Name the event loop the listeners live in."""
        self._loop = loop

    def publish(self, kind: str, **values: Any) -> None:
        """Tell every listener, here and in other processes; of what may change what sounds first that it may have: it may be
        playing.
        """
        if kind in _CHANGES_SOUND or (kind == "job" and values.get("state") == "done"):
            self._tell({"kind": "programme", "production_id": values.get("production_id")})
        self._tell({"kind": kind, **values})

    def _tell(self, event: Event) -> None:
        self.deliver(event)
        if self.to_others is not None:
            self.to_others(event)

    def deliver(self, event: Event) -> None:
        """Tell the listeners of this process. One that does not keep up misses events, and not the server its memory."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._put, event)

    def _put(self, event: Event) -> None:
        for queue in self._queues:
            if queue.qsize() < _MOST_WAITING:
                queue.put_nowait(event)

    async def listen(self) -> AsyncIterator[Event]:
        """Events from now on."""
        queue: asyncio.Queue[Event] = asyncio.Queue()
        self._queues.add(queue)
        try:
            while True:
                yield await queue.get()
        finally:
            self._queues.discard(queue)


class Relay:
    """Carries events between the buses of all processes on one database, by a table that each of them looks at.

    While the database is away nothing is carried; pages that come back ask for everything anyway.
    """

    def __init__(self, database: Database, bus: EventBus, origin: str) -> None:
        self._database, self._bus, self._origin = database, bus, origin
        self._outgoing: Queue[Event] = Queue(_MOST_WAITING)
        self._newest: int | None = None
        self._seen: set[int] = set()
        self._is_closing = Flag()
        self._thread = Thread(target=self._run, name="events", daemon=True)

    def start(self) -> None:
        """Begin to carry what happens from now on."""
        self._bus.to_others = self._send
        with contextlib.suppress(SQLAlchemyError):
            self._carry([], forget=False)  # before there is a page that could miss what comes next
        self._thread.start()

    def close(self) -> None:
        """Carry what is left, and stop."""
        self._is_closing.set()
        self._thread.join()

    def _send(self, event: Event) -> None:
        try:
            self._outgoing.put_nowait(event)
        except Full:
            _log.debug("an event is not carried to other processes: the database is away")

    def _run(self) -> None:
        rounds = 0
        while not self._is_closing.is_set():
            waiting = self._waiting()
            try:
                self._carry(waiting, forget=rounds % _FORGET_EVERY == 0)
                rounds += 1
            except SQLAlchemyError:
                _log.debug("events could not be carried", exc_info=True)
                self._is_closing.wait(_LOOK_S)
        with contextlib.suppress(SQLAlchemyError, Empty):
            self._carry([self._outgoing.get_nowait() for _ in range(self._outgoing.qsize())], forget=False)

    def _waiting(self) -> list[Event]:
        """What is to be carried now; looks up once a second at least."""
        try:
            first = self._outgoing.get(timeout=_LOOK_S)
        except Empty:
            return []
        return [first, *(self._outgoing.get_nowait() for _ in range(self._outgoing.qsize()))]

    def _carry(self, waiting: list[Event], forget: bool) -> None:
        if waiting or forget:
            with self._database.transaction() as session:
                rows.add_events(session, self._origin, waiting)
                if forget:
                    rows.forget_old_events(session)
        with self._database.transaction() as session:
            if self._newest is None:
                self._newest = rows.newest_event_id(session)
                self._seen = {row.id for row in rows.events_after(session, self._newest - _OVERLAP, self._origin)}
                return
            found = rows.events_after(session, self._newest - _OVERLAP, self._origin)
            fresh = [(row.id, row.body) for row in found if row.id not in self._seen]
        for number, body in fresh:
            self._bus.deliver(body)
            self._newest = max(self._newest, number)
        self._seen = {row.id for row in found}
