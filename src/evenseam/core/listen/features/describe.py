"""What each beat sounds like, scaled so that distance between two beats is how different they sound."""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from evenseam.core.chart.description import COLOUR, COLOUR_WEIGHT, N_BANDS, N_SOUND, NOTES_WEIGHT, SOUND_WEIGHT
from evenseam.core.listen.features.spectra import TONE_HOPS, tone_cells

_BRIGHT_FROM = 11
_TIMBRE_WEIGHT, _CHROMA_WEIGHT, _LEVEL_WEIGHT = 1.0, 1.6, 0.6
_AROUND_TONES = 9  # semitones: a tone counts as a note by how far it stands out from these
_WITHOUT_ATTACK = 2  # hops, or rows of tones, that still hold the sound before

Floats = NDArray[np.float32]
Tones = NDArray[np.float32] | NDArray[np.float16]


def beat_features(bands: Floats, chroma: Floats, tones: Tones, beat_hops: NDArray[np.float64]) -> Floats:
    """Describe each beat in two halves, (beats, 250), each part scaled by how much it changes from beat to beat.

    Sound: timbre (16 bands), harmony (12 pitch classes) and level. Notes: which pitch classes stand out in each of three
    registers. Colour: the shape of the spectrum by semitone.
    """
    n_hops = bands.shape[0]
    halves = half_beats(beat_hops, n_hops)
    if not halves.size:
        return np.zeros((0, COLOUR.stop), dtype=np.float32)
    sound = _sound(between_beats(bands, halves), between_beats(chroma, halves))
    rows = half_beats(beat_hops / TONE_HOPS, tones.shape[0])
    energy = between_beats(tones, rows)
    parts = ((SOUND_WEIGHT, sound), (NOTES_WEIGHT, _notes(energy)), (COLOUR_WEIGHT, _unit(energy)))
    return np.concatenate([weight * _by_usual_step(values.reshape(beat_hops.size, -1)) for weight, values in parts], axis=1)


def half_beats(hops: NDArray[np.float64], n_hops: int) -> NDArray[np.int64]:
    """The steps on which the halves of all beats begin, (2 * beats,)."""
    if not hops.size:
        return np.empty(0, dtype=np.int64)
    starts = np.clip(np.rint(hops).astype(np.int64), 0, n_hops - 1)
    usual = round(float(hops[-1] - hops[-2])) if hops.size > 1 else 50
    ends = np.append(starts[1:], min(n_hops, starts[-1] + usual))
    middles = np.maximum((starts + ends) // 2, starts + 1)
    return np.minimum(np.stack([starts, middles], axis=1).ravel(), n_hops - 1)


def _sound(bands: NDArray[np.float64], chroma: NDArray[np.float64]) -> NDArray[np.float64]:
    """Timbre, harmony and level of each half, (halves, 29)."""
    grouped = bands.reshape(bands.shape[0], N_BANDS, -1).mean(axis=2)
    level = grouped.mean(axis=1, keepdims=True)
    timbre = grouped - level
    harmony = _unit(chroma - 0.8 * chroma.min(axis=1, keepdims=True))
    parts = [
        _TIMBRE_WEIGHT * timbre / (_spread(timbre) * np.sqrt(N_BANDS)),
        _CHROMA_WEIGHT * harmony,
        _LEVEL_WEIGHT * level / _spread(level),
    ]
    return np.concatenate(parts, axis=1)


def _notes(energy: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much each pitch class of each register stands out, (halves, 36)."""
    beside = uniform_filter1d(energy, _AROUND_TONES, axis=1, mode="nearest")
    return _unit(np.sqrt(np.maximum(energy - beside, 0)) @ tone_cells())


def _unit(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Rows of length 1."""
    return values / (np.linalg.norm(values, axis=1, keepdims=True) + 1e-6)


def _by_usual_step(values: NDArray[np.float64]) -> Floats:
    """In units of how far neighbouring beats lie apart."""
    steps = np.linalg.norm(np.diff(values, axis=0), axis=1)
    return np.asarray(values / (float(steps.mean()) + 1e-3 if steps.size else 1.0), dtype=np.float32)


def beat_intensity(bands: Floats, rise: Floats, beat_hops: NDArray[np.float64]) -> Floats:
    """How full the music is on each beat beside the rest of the piece, 0 to 1; level and density of attacks."""
    hops = np.clip(np.rint(beat_hops).astype(int), 0, bands.shape[0] - 1)
    if not hops.size:
        return np.zeros(0, dtype=np.float32)
    parts = [between_beats(v, hops)[:, 0] for v in (bands.mean(axis=1, keepdims=True), rise[:, None])]
    scaled = [np.clip((p - np.percentile(p, 2)) / (np.percentile(p, 98) - np.percentile(p, 2) + 1e-6), 0, 1) for p in parts]
    return (0.7 * scaled[0] + 0.3 * scaled[1]).astype(np.float32)


def starts_brightly(features: NDArray[np.float32], at: NDArray[np.int64]) -> NDArray[np.float64]:
    """How loud and bright some beats start, from the features of all; in their scale, (beats at `at`,)."""
    first = features[at, :N_SOUND].astype(np.float64)
    return np.sqrt(N_BANDS) * first[:, _BRIGHT_FROM:N_BANDS].mean(axis=1) + first[:, -1]


def mean_between(values: NDArray[np.float32], at: NDArray[np.float64]) -> NDArray[np.float32]:
    """Mean of `values` (steps,) from each place to the next; float32 (places,)."""
    if not at.size:
        return np.zeros(0, dtype=np.float32)
    steps = np.clip(np.rint(at).astype(int), 0, values.size - 1)
    ends = np.maximum(np.append(steps[1:], min(values.size, steps[-1] + 25)), steps + 1)
    total = np.concatenate([[0.0], np.cumsum(values, dtype=np.float64)])
    return ((total[ends] - total[steps]) / (ends - steps)).astype(np.float32)


def between_beats(values: Tones, hops: NDArray[np.int64]) -> NDArray[np.float64]:
    """Mean of `values` (hops, d) from each beat to the next; (beats, d)."""
    ends = np.append(hops[1:], values.shape[0])
    starts = np.minimum(hops + _WITHOUT_ATTACK, ends - 1)
    pairs = np.minimum(np.stack([starts, ends], axis=1).ravel(), values.shape[0] - 1)
    counts = np.maximum(np.minimum(ends, values.shape[0] - 1) - starts, 1)
    return np.add.reduceat(values, pairs, axis=0)[::2].astype(np.float64) / counts[:, None]


def _spread(values: NDArray[np.float64]) -> float:
    return float(np.sqrt(np.mean(np.var(values, axis=0)))) + 1e-6
