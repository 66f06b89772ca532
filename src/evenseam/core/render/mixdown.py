"""From a programme to sound: clips brought to one rate, their gains, their sum; any stretch the same however asked for."""

from collections.abc import Iterator, Mapping
from math import gcd
from threading import Lock
from typing import Protocol

import numpy as np
import soxr
from cachetools import LRUCache
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound
from evenseam.core.mix.curves import NOTHING_DB, GainCurve
from evenseam.core.plan.model import Plan
from evenseam.core.render.gains import apply_gains, falling, rising, with_silence
from evenseam.core.render.programme import Bus, Clip, Programme, alone
from evenseam.core.render.renderer import Renderer

_CHUNK_S, _AROUND_S = 2.0, 0.1
_MOST_CHUNKS = 8
_BLOCK_S = 4.0
RESAMPLED_AT_ONCE_S = _CHUNK_S + _AROUND_S  # how far around a place a sound is read for another rate


class Playable(Protocol):
    """A sound that can be read anywhere: a plan's renderer, a recording, a stretch of speech."""

    @property
    def rate(self) -> int:
        """Samples a second."""
        ...

    @property
    def channels(self) -> int:
        """One or two."""
        ...

    def block(self, start: int, stop: int) -> Sound:
        """[start, stop), float32 (channels, stop - start); silence where there is nothing."""
        ...


class Recorded:
    """A recording as it is: float32 (channels, samples) or a memory map of that shape."""

    def __init__(self, samples: Sound, rate: int) -> None:
        self._samples, self.rate, self.channels = samples, rate, int(samples.shape[0])

    def block(self, start: int, stop: int) -> Sound:
        """[start, stop); a copy."""
        return with_silence(self._samples, start, stop)


class Mixdown:
    """Renders a programme. `sounds`: what its clips name."""

    def __init__(self, programme: Programme, sounds: Mapping[str, Playable]) -> None:
        self._programme = programme
        self._buses = {bus.name: bus for bus in programme.buses}
        self._clips = [(clip, at_rate(sounds[clip.sound], programme.rate, clip.start_samples)) for clip in programme.clips]

    def block(self, start: int, stop: int) -> Sound:
        """[start, stop) of the programme, float32 (channels, stop - start); silence outside it."""
        out = np.zeros((self._programme.channels, stop - start), dtype=np.float32)
        for clip, sound in self._clips:
            low = max(start, clip.at_samples, 0)
            high = min(stop, clip.at_samples + clip.n_samples, self._programme.n_samples)
            if low >= high:
                continue
            part = _in_channels(sound.block(low - clip.at_samples, high - clip.at_samples), self._programme.channels)
            part = _levelled(part, clip, low - clip.at_samples, clip.n_samples)
            part = _levelled(part, self._buses[clip.bus], low, self._programme.n_samples)
            out[:, low - start : high - start] += part
        return out

    def blocks(self) -> Iterator[Sound]:
        """The whole programme in blocks of some seconds, in order."""
        size = round(_BLOCK_S * self._programme.rate)
        for start in range(0, self._programme.n_samples, size):
            yield self.block(start, min(start + size, self._programme.n_samples))


def render_blocks(plan: Plan, samples: Sound) -> Iterator[Sound]:
    """The print of a plan: a programme of it alone, at its own rate, in blocks of some seconds, in order."""
    renderer = Renderer(plan, samples)
    programme = alone("fit", plan.rate, renderer.channels, plan.target_samples)
    return Mixdown(programme, {"fit": renderer}).blocks()


def gains(curve: GainCurve, start: int, stop: int) -> NDArray[np.float32]:
    """Factors of a curve over [start, stop)."""
    at = np.array([p.at_samples for p in curve.points], dtype=np.float64)
    level = np.array([p.gain_db for p in curve.points], dtype=np.float64)
    db = np.interp(np.arange(start, stop), at, level)
    return np.where(db <= NOTHING_DB, 0.0, 10 ** (db / 20)).astype(np.float32)


def _levelled(sound: Sound, of: Clip | Bus, start: int, length: int) -> Sound:
    """A stretch that begins `start` samples into something so long, with its curve and its fades."""
    if of.gain.points:
        sound = sound * gains(of.gain, start, start + sound.shape[1])
    if of.fade_in.n_samples or of.fade_out.n_samples:
        sound = sound.copy()
        apply_gains(sound, rising(of.fade_in), -start)
        apply_gains(sound, falling(of.fade_out), length - of.fade_out.n_samples - start)
    return sound


def _in_channels(sound: Sound, channels: int) -> Sound:
    if sound.shape[0] == channels:
        return sound
    return np.repeat(sound, channels, axis=0) if sound.shape[0] == 1 else sound.mean(axis=0, keepdims=True)


def at_rate(sound: Playable, rate: int, start_samples: int = 0) -> Playable:
    """A sound from one of its samples on, at another rate if it has to be."""
    return _Shifted(sound, start_samples) if sound.rate == rate else _Resampled(sound, rate, start_samples)


class _Shifted:
    """A sound from one of its samples on."""

    def __init__(self, sound: Playable, start: int) -> None:
        self._sound, self._start = sound, start
        self.rate, self.channels = sound.rate, sound.channels

    def block(self, start: int, stop: int) -> Sound:
        return self._sound.block(start + self._start, stop + self._start)


class _Resampled:
    """A sound from one of its samples on, at another rate (soxr, its finest quality).

    It is made in chunks that begin where samples of both rates coincide, each with enough sound around it that nothing of
    a chunk's edges is left; so a block is the same whatever was asked for before.
    Safe for several threads.
    """

    def __init__(self, sound: Playable, rate: int, start: int) -> None:
        self._sound, self._start = sound, start
        self.rate, self.channels = rate, sound.channels
        common = gcd(sound.rate, rate)
        up, down = rate // common, sound.rate // common
        periods, around = max(1, round(_CHUNK_S * common)), max(1, round(_AROUND_S * common))
        self._size, self._taken = periods * up, periods * down
        self._around, self._skip = around * down, around * up
        self._chunks: LRUCache[int, Sound] = LRUCache(_MOST_CHUNKS)
        self._lock = Lock()

    def block(self, start: int, stop: int) -> Sound:
        parts = [self._chunk(c) for c in range(start // self._size, -(-stop // self._size))]
        first = start // self._size * self._size
        return np.concatenate(parts, axis=1)[:, start - first : stop - first]

    def _chunk(self, number: int) -> Sound:
        with self._lock:
            known = self._chunks.get(number)
        if known is None:
            first = self._start + number * self._taken
            given = self._sound.block(first - self._around, first + self._taken + self._around)
            made = soxr.resample(np.ascontiguousarray(given.T), self._sound.rate, self.rate, quality="VHQ")
            known = np.ascontiguousarray(made[self._skip : self._skip + self._size].T, dtype=np.float32)
            with self._lock:
                self._chunks[number] = known
        return known
