"""Sweeps read at any place: by going over them once in order, or by keeping what was made."""

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Protocol

import numpy as np
from cachetools import LRUCache

from evenseam.core.audio.sound import Sound
from evenseam.core.render.sweep import Playing, Sweep

_HELD_S = 12.0
Allocate = Callable[[int, int], Sound]


class Made(Protocol):
    """A sweep that can be read at any place."""

    def read(self, start: int, stop: int) -> Sound:
        """Output samples [start, stop); the same samples however they are asked for."""
        ...


class InOrder:
    """Makes a sweep as it is read and holds the last seconds; reading further back begins it again. For prints."""

    def __init__(self, sweep: Sweep) -> None:
        self._sweep, self._playing = sweep, sweep.begin()
        self._held: list[tuple[int, Sound]] = []

    def read(self, start: int, stop: int) -> Sound:
        """Output samples [start, stop)."""
        if self._playing.at > start and (not self._held or self._held[0][0] > start):
            self._playing, self._held = self._sweep.begin(), []
        while self._playing.at < stop:
            at = self._playing.at
            self._held.append((at, self._playing.make()))
            while self._held[0][0] + self._held[0][1].shape[1] < min(start, self._playing.at - _HELD_S * self._sweep.rate):
                self._held.pop(0)
        return joined(self._held, start, stop, self._sweep.channels)


class Kept:
    """A sweep that keeps all that was made of it, in an array given to it. Safe for several threads."""

    def __init__(self, sweep: Sweep, store: Sound) -> None:
        self._sweep, self._store = sweep, store
        self._playing: Playing | None = sweep.begin()
        self.made_to = sweep.starts_at
        self._lock = Lock()

    @property
    def n_bytes(self) -> int:
        """How much room the array takes."""
        return self._store.nbytes

    @property
    def is_whole(self) -> bool:
        """Whether all of it was made."""
        return self.made_to >= self._sweep.ends_at

    def make_more(self) -> bool:
        """Make the next tenths of a second. Returns: whether there is more to make."""
        with self._lock:
            if self._playing is None:
                return False
            at, sound = self._playing.at, self._playing.make()
            low, high = max(at, self._sweep.starts_at), min(at + sound.shape[1], self._sweep.ends_at)
            if low < high:
                first = self._sweep.starts_at
                self._store[:, low - first : high - first] = sound[:, low - at : high - at]
                self.made_to = high
            if self.is_whole:
                self._playing = None
            return self._playing is not None

    def read(self, start: int, stop: int) -> Sound:
        """Output samples [start, stop), made now as far as they are not there yet; silence outside the sweep."""
        out = np.zeros((self._sweep.channels, stop - start), dtype=np.float32)
        low, high = max(start, self._sweep.starts_at), min(stop, self._sweep.ends_at)
        while self.made_to < high and self.make_more():
            pass
        first = self._sweep.starts_at
        if low < high:
            out[:, low - start : high - start] = self._store[:, low - first : high - first]
        return out


class Shelf:
    """Kept sweeps by all that changes how they sound, those used last, up to a number of bytes. Safe for several threads.

    One that is larger than that is kept alone. `allocate(channels, n_samples)` gives a float32 array to keep one in; it may
    raise OSError when there is no room.
    """

    def __init__(self, allocate: Allocate, most_bytes: int = 4 << 30) -> None:
        self._allocate = allocate
        self._kept: LRUCache[Hashable, Kept] = LRUCache(most_bytes, getsizeof=lambda kept: min(kept.n_bytes, most_bytes))
        self._lock = Lock()

    def get(self, key: Hashable, sweep: Callable[[], Sweep]) -> Kept:
        """The kept sweep of a key, begun now if it is not there. Raises: OSError."""
        with self._lock:
            if key not in self._kept:
                made = sweep()
                self._kept[key] = Kept(made, self._allocate(made.channels, made.ends_at - made.starts_at))
            return self._kept[key]


def joined(parts: list[tuple[int, Sound]], start: int, stop: int, channels: int) -> Sound:
    """[start, stop) of parts that lie where they say, zeros where there is none."""
    out = np.zeros((channels, stop - start), dtype=np.float32)
    for at, sound in parts:
        low, high = max(start, at), min(stop, at + sound.shape[1])
        if low < high:
            out[:, low - start : high - start] = sound[:, low - at : high - at]
    return out
