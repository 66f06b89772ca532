"""What is costly to make and asked for again: kept by its key, and made once however many threads ask at the same time."""

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

from cachetools import LRUCache

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Kept(Generic[K, V]):
    """The values used last, up to `most` of them. Whoever asks for one that is being made waits for it; others do not."""

    def __init__(self, most: int) -> None:
        self._values: LRUCache[K, V] = LRUCache(most)
        self._making: dict[K, Lock] = {}
        self._lock = Lock()

    def get(self, key: K, make: Callable[[], V], is_kept: Callable[[V], bool] = lambda _: True) -> V:
        """The value of a key: the one that is kept, or what `make` gives, which is kept unless `is_kept` says no of it."""
        with self._lock:
            if key in self._values:
                return self._values[key]
            making = self._making.setdefault(key, Lock())
        with making:
            with self._lock:
                if key in self._values:
                    return self._values[key]
            try:
                made = make()
                if is_kept(made):
                    with self._lock:
                        self._values[key] = made
                return made
            finally:
                with self._lock:
                    self._making.pop(key, None)

    def forget(self, which: Callable[[K], bool]) -> None:
        """Let go of the values of some keys."""
        with self._lock:
            for key in [k for k in self._values if which(k)]:
                del self._values[key]
