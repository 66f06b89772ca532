"""What rings: what goes on across a place in the music, apart from what is struck there, and how long it lasts on.

Two beats can match in all that is struck on them and still not join: a held note breaks off, or one is there from nowhere.
A partial goes on when the spectrum well before a place and well after it both have it, at much the same level: what is
struck anew there rises, and what has ended before it falls.
"""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.chart.description import N_CELLS
from evenseam.core.listen.spectra import TONE_HOPS, tone_cells

PARTS = 2  # places a beat: on it, and halfway to the next one
_NEAR_ROWS, _FAR_ROWS = 3, 4  # rows of 40 ms away from a place: the window is as long as five
_FAINT = 0.35  # log energy below which a tone is taken not to sound
_HIDDEN_DB = 50.0  # a tone that is so much softer than the loudest is only its skirt
_STROKE_DB, _END_DB = (
    7.0,
    20.0,
)  # a tone that rises so much was struck anew, one that falls so much has ended: it does not go on
_LONGEST_TAIL_S, _TAIL_DB = 3.0, 10.0  # a tail has ended where it has fallen so much

FloatArray = NDArray[np.float32]
Tones = NDArray[np.float32] | NDArray[np.float16]


def ringing(tones: Tones, beat_hops: NDArray[np.float64], hops_per_s: float) -> tuple[FloatArray, FloatArray]:
    """What rings across every beat and the place halfway to the next one, and for how long.

    `tones`: as in Spectra. Returns: float32 (beats, 2, 36), how much of each pitch class (C first) of each register goes on;
    float32 (beats, 2), the seconds until most of it has died away or been struck anew, 0 where nothing rings.
    """
    if not beat_hops.size:
        return np.zeros((0, PARTS, N_CELLS), np.float32), np.zeros((0, PARTS), np.float32)
    steps = np.diff(beat_hops, append=beat_hops[-1] + (beat_hops[-1] - beat_hops[-2] if beat_hops.size > 1 else hops_per_s / 2))
    at = (beat_hops[:, None] + steps[:, None] * np.arange(PARTS) / PARTS).ravel()
    rows = np.rint(at / TONE_HOPS).astype(np.int64)
    held = _held(tones, rows)
    tails = _tails(tones, rows, held, hops_per_s / TONE_HOPS)
    return (held @ tone_cells()).reshape(-1, PARTS, N_CELLS), tails.reshape(-1, PARTS)


def _level(tones: Tones, rows: NDArray[np.int64], away: tuple[int, int]) -> FloatArray:
    """Mean level of every tone some rows away from each place, (places, tones)."""
    last = tones.shape[0] - 1
    near, far = (tones[np.clip(rows + k, 0, last)].astype(np.float32) for k in away)
    return np.asarray((near + far) / 2, dtype=np.float32)


def _held(tones: Tones, rows: NDArray[np.int64]) -> FloatArray:
    """How much of every tone goes on across each place, (places, tones), for tones that stand out from their neighbours."""
    before = _level(tones, rows, (-_FAR_ROWS, -_NEAR_ROWS))
    after = _level(tones, rows, (_NEAR_ROWS, _FAR_ROWS))
    inside = ((rows >= _FAR_ROWS) & (rows < tones.shape[0] - _FAR_ROWS))[:, None]
    both = np.minimum(before, after)
    beside = np.maximum(_shifted(both, 1), _shifted(both, -1))
    change_db = _db(after) - _db(before)
    goes_on = np.clip(1 - np.maximum(change_db / _STROKE_DB, -change_db / _END_DB), 0, 1)
    level_db = _db(both)
    stands_out = (both > _FAINT) & (both >= beside) & (level_db > level_db.max(axis=1, keepdims=True) - _HIDDEN_DB)
    return np.where(stands_out & inside, both * goes_on, 0).astype(np.float32)


def _db(tones: FloatArray) -> FloatArray:
    """From log energies, as in Spectra, to decibels."""
    return np.asarray(20 * np.log10(np.expm1(np.maximum(tones, 1e-3))), dtype=np.float32)


def _shifted(values: FloatArray, by: int) -> FloatArray:
    out = np.zeros_like(values)
    if by > 0:
        out[:, by:] = values[:, :-by]
    else:
        out[:, :by] = values[:, -by:]
    return out


def _tails(tones: Tones, rows: NDArray[np.int64], held: FloatArray, rows_per_s: float) -> FloatArray:
    """Seconds from each place until what is held there has fallen, or is struck anew: the mean over it, by how much it is."""
    total = held.sum(axis=1)
    lasts = np.zeros_like(held)
    going = held > 0
    last = tones.shape[0] - 1
    start = before = _db(_level(tones, rows, (_NEAR_ROWS, _FAR_ROWS)))
    for ahead in range(_FAR_ROWS, round(_LONGEST_TAIL_S * rows_per_s)):
        now = _db(tones[np.clip(rows + ahead, 0, last)].astype(np.float32))
        going &= (now > start - _TAIL_DB) & (now < before + _STROKE_DB) & (rows + ahead <= last)[:, None]
        lasts[going] = ahead / rows_per_s
        before = now
        if not going.any():
            break
    return np.divide((lasts * held).sum(axis=1), total, out=np.zeros_like(total), where=total > 0)
