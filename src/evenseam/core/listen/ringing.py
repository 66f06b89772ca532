"""What rings: the notes that go on across a place in the music, apart from what is struck there, and how long they last on.

Two beats can match in all that is struck on them and still not join: a held note breaks off, or one is there from nowhere.
Which notes are held a small network of our own says (`held.onnx`), of one key at a time: it sees how its tone, its neighbours
and its partials go before and after the place. It was taught on scores written by our own code (bench/ear/held_train.py).
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_CELLS, N_TONES
from evenseam.core.listen.networks import network
from evenseam.core.listen.spectra import TONE_HOPS, tone_cells

PARTS = 2  # places a beat: on it, and halfway to the next one
# What is seen of a key: rows of 40 ms around the place, of tones so many semitones away: its neighbours, its partials, and
# those of which it may be one.
_ROWS = (-7, -5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 7)
_SEMITONES = (-24, -19, -12, -2, -1, 0, 1, 2, 7, 12, 19, 24, 28, 31, 36)
N_SEEN = len(_ROWS) * len(_SEMITONES) + 2
_PLACES_AT_ONCE = 128
_FAINT = 0.35  # log energy below which a tone is taken not to sound
_SURELY = 0.5  # a note more likely held than not has a tail
_NEAR_ROWS, _FAR_ROWS = 3, 4  # rows away from a place that its own stroke is not heard in: the window is as long as five
_STROKE_DB = 7.0  # a tone that rises so much was struck anew
_LONGEST_TAIL_S, _TAIL_DB = 3.0, 10.0  # a tail has ended where it has fallen so much

FloatArray = NDArray[np.float32]
Ints = NDArray[np.int64]
Tones = NDArray[np.float32] | NDArray[np.float16]


def ringing(tones: Tones, beat_hops: NDArray[np.float64], hops_per_s: float) -> tuple[FloatArray, FloatArray]:
    """What rings across every beat and the place halfway to the next one, and for how long.

    `tones`: as in Spectra. Returns: float32 (beats, 2, 36), how many notes of each pitch class (C first) of each register go
    on, as is to be expected; float32 (beats, 2), the seconds until most of them have died away or been struck anew, 0 where
    nothing rings.
    """
    if not beat_hops.size:
        return np.zeros((0, PARTS, N_CELLS), np.float32), np.zeros((0, PARTS), np.float32)
    steps = np.diff(beat_hops, append=beat_hops[-1] + (beat_hops[-1] - beat_hops[-2] if beat_hops.size > 1 else hops_per_s / 2))
    at = (beat_hops[:, None] + steps[:, None] * np.arange(PARTS) / PARTS).ravel()
    rows = np.rint(at / TONE_HOPS).astype(np.int64)
    held = _held(tones, rows)
    tails = _tails(tones, rows, held, hops_per_s / TONE_HOPS)
    return (held @ tone_cells()).reshape(-1, PARTS, N_CELLS), tails.reshape(-1, PARTS)


def around(tones: Tones, rows: Ints) -> FloatArray:
    """What the network sees of every key at some places, float32 (places, 60, N_SEEN): levels, how loud it is, how high."""
    last = tones.shape[0] - 1
    levels = np.stack([tones[np.clip(rows + k, 0, last)] for k in _ROWS], axis=2).astype(np.float32)
    below, above = -min(_SEMITONES), max(_SEMITONES)
    wide = np.pad(levels, ((0, 0), (below, above), (0, 0)))
    near = np.stack([wide[:, below + k : below + k + N_TONES] for k in _SEMITONES], axis=2)
    loud = np.broadcast_to(levels.max(axis=1).mean(axis=1)[:, None, None], (rows.size, N_TONES, 1))
    high = np.broadcast_to(np.arange(N_TONES, dtype=np.float32)[:, None] / N_TONES, (rows.size, N_TONES, 1))
    return np.concatenate([near.reshape(rows.size, N_TONES, -1), loud, high], axis=2)


def _held(tones: Tones, rows: Ints) -> FloatArray:
    """How likely each key is held across each place, (places, 60): none that does not sound, none across an end of it all."""
    held = np.zeros((rows.size, N_TONES), dtype=np.float32)
    for start in range(0, rows.size, _PLACES_AT_ONCE):
        part = slice(start, start + _PLACES_AT_ONCE)
        seen = around(tones, rows[part]).reshape(-1, N_SEEN)
        held[part] = network("held").run(None, {"around": seen})[0].reshape(-1, N_TONES)
    both = np.minimum(_level(tones, rows, (-_FAR_ROWS, -_NEAR_ROWS)), _level(tones, rows, (_NEAR_ROWS, _FAR_ROWS)))
    inside = (rows >= _FAR_ROWS) & (rows < tones.shape[0] - _FAR_ROWS)
    return np.where((both > _FAINT) & inside[:, None], held, 0).astype(np.float32)


def _level(tones: Tones, rows: Ints, away: tuple[int, int]) -> FloatArray:
    """Mean level of every tone some rows away from each place, (places, tones)."""
    last = tones.shape[0] - 1
    near, far = (tones[np.clip(rows + k, 0, last)].astype(np.float32) for k in away)
    return np.asarray((near + far) / 2, dtype=np.float32)


def _db(tones: FloatArray) -> FloatArray:
    """From log energies, as in Spectra, to decibels."""
    return np.asarray(20 * np.log10(np.expm1(np.maximum(tones, 1e-3))), dtype=np.float32)


def _tails(tones: Tones, rows: Ints, held: FloatArray, rows_per_s: float) -> FloatArray:
    """Seconds from each place until what is held there has fallen, or is struck anew: the mean over it, by how likely it is."""
    sure = np.where(held >= _SURELY, held, 0)
    total = sure.sum(axis=1)
    lasts = np.zeros_like(sure)
    going = sure > 0
    last = tones.shape[0] - 1
    start = before = _db(_level(tones, rows, (_NEAR_ROWS, _FAR_ROWS)))
    for ahead in range(_FAR_ROWS, round(_LONGEST_TAIL_S * rows_per_s)):
        now = _db(tones[np.clip(rows + ahead, 0, last)].astype(np.float32))
        going &= (now > start - _TAIL_DB) & (now < before + _STROKE_DB) & (rows + ahead <= last)[:, None]
        lasts[going] = ahead / rows_per_s
        before = now
        if not going.any():
            break
    return np.divide((lasts * sure).sum(axis=1), total, out=np.zeros_like(total), where=total > 0)
