"""Bars: which pulse is the beat, which beats are downbeats, and how many beats a bar has.

A search for beats alone may lock on to half or double the tempo, two thirds of it, or the off-beats. So every pulse that
was found is halved once more, and every reading of the finer pulses (pulses to the beat, beats to the bar, where they
start) is weighed by what a listener goes by: where the bass and the whole band strike, where the harmony changes, where
something new begins, and after how long the music repeats itself.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from evenseam.core.listen._kernels import best_bar_places
from evenseam.core.listen.beats import Pulse
from evenseam.core.listen.describe import between_beats
from evenseam.core.listen.repetition import LagProfiles, lag_profiles
from evenseam.core.listen.spectra import Spectra

_LOW_BANDS = 5
_BEAT_WEIGHTS = {"bass": 0.6, "strike": 0.6, "harmony": 0.8}
_DOWNBEAT_WEIGHTS = {"bass": 0.4, "strike": 0.2, "harmony": 1.2, "novelty": 0.6}
_BEAT_SHARE, _BAR_SHARE = 0.5, 0.7  # how much the contrast of beats and of downbeats counts
_REPEATED_HARMONY, _REPEATED_ATTACKS, _REPEATED_BEATS, _PULSE_STRENGTH = 2.1, 20.0, 2.8, 0.8
_ONE_PULSE_A_BEAT = 0.3  # what stands for the contrast of the beats where no finer pulse is there to compare with
_FOUR_FAVOURED = 0.07  # most library music is in four; three must show itself
_HALF_BAR = 0.125  # in four, the third beat carries some of the weight of the first
_USUAL_BPM, _USUAL_OCTAVES, _TEMPO_WEIGHT = 118.0, 0.5, 0.5
_SLOWEST_BPM, _FASTEST_BPM = 50.0, 215.0
_SLIP_COST = 9.0


@dataclass(frozen=True, slots=True, eq=False)
class BarTrack:
    """`hops`: float64 (beats,); `place`: int64 (beats,), 0 on downbeats; `meter` beats to the bar; `confidence` 0 to 1."""

    hops: NDArray[np.float64]
    place: NDArray[np.int64]
    meter: int
    confidence: float


@dataclass(frozen=True, slots=True)
class _Reading:
    """One way to read a pulse: `score`, pulses to the beat, first beat, beats to the bar, first downbeat (in beats)."""

    score: float
    per_beat: int
    first: int
    meter: int
    downbeat: int


def find_bars(spec: Spectra, pulses: list[Pulse], hops_per_s: float) -> BarTrack | None:
    """Decide beats, metre and downbeats from the pulses that were found (positions in hops); None if there are none."""
    if not pulses:
        return None
    profiles = lag_profiles(spec)
    best: tuple[_Reading, NDArray[np.float64], dict[str, NDArray[np.float64]]] | None = None
    for pulse in pulses:
        finer = _halved(pulse.hops)
        evidence = _evidence(spec, finer)
        for reading in _readings(evidence, float(np.median(np.diff(finer))), hops_per_s, profiles):
            scored = replace(reading, score=reading.score + _PULSE_STRENGTH * pulse.strength)
            if best is None or scored.score > best[0].score:
                best = scored, finer, evidence
    if best is None:
        return None
    reading, finer, evidence = best
    downbeat = _weighed(evidence, _DOWNBEAT_WEIGHTS)[reading.first :: reading.per_beat]
    place = _places(downbeat, reading)
    hops = finer[reading.first :: reading.per_beat]
    return BarTrack(hops, place, reading.meter, _confidence(downbeat, place, reading.meter))


def _halved(hops: NDArray[np.float64]) -> NDArray[np.float64]:
    pulse = np.empty(hops.size * 2 - 1)
    pulse[0::2] = hops
    pulse[1::2] = (hops[1:] + hops[:-1]) / 2
    return pulse


def _evidence(spec: Spectra, pulse: NDArray[np.float64]) -> dict[str, NDArray[np.float64]]:
    """What speaks for each pulse being a beat or a downbeat; each part with local mean 0 and spread 1."""
    hops = np.clip(np.rint(pulse).astype(int), 0, spec.n_hops - 1)
    chroma, bands = between_beats(spec.chroma, hops), between_beats(spec.bands, hops)
    return {
        "bass": _standard(maximum_filter1d(spec.flux[:, :_LOW_BANDS].mean(axis=1), 7)[hops]),
        "strike": _standard(maximum_filter1d(spec.flux.mean(axis=1), 7)[hops]),
        "harmony": _standard(_change(chroma, 2) + _change(chroma, 4) + _change(chroma, 8)),
        "novelty": _standard(_change(bands, 4) + _change(bands, 8)),
    }


def _weighed(evidence: dict[str, NDArray[np.float64]], weights: dict[str, float]) -> NDArray[np.float64]:
    return np.sum([weight * evidence[name] for name, weight in weights.items()], axis=0)


def _readings(
    evidence: dict[str, NDArray[np.float64]], pulse_hops: float, hops_per_s: float, profiles: LagProfiles
) -> list[_Reading]:
    beat, downbeat = _weighed(evidence, _BEAT_WEIGHTS), _weighed(evidence, _DOWNBEAT_WEIGHTS)
    number = np.arange(beat.size)
    found = []
    for per_beat in (1, 2, 4):
        beat_hops = pulse_hops * per_beat
        bpm = 60 * hops_per_s / beat_hops
        if not _SLOWEST_BPM < bpm < _FASTEST_BPM:
            continue
        tempo = -_TEMPO_WEIGHT * (np.log2(bpm / _USUAL_BPM) / _USUAL_OCTAVES) ** 2
        tempo += _REPEATED_BEATS * profiles.beat_strength(beat_hops)
        for meter in (4, 3):
            harmony, attacks = profiles.bar_strength(beat_hops * meter)
            repeats = _REPEATED_HARMONY * harmony + _REPEATED_ATTACKS * attacks
            for first in range(per_beat):
                on = number % per_beat == first
                contrast = float(beat[on].mean() - beat[~on].mean()) if per_beat > 1 else _ONE_PULSE_A_BEAT
                of_beats = downbeat[on]
                for phase in range(meter):
                    bars = _bar_contrast(of_beats, meter, phase)
                    score = tempo + repeats + _BEAT_SHARE * contrast + _BAR_SHARE * bars
                    found.append(_Reading(score, per_beat, first, meter, phase))
    return found


def _bar_contrast(downbeat: NDArray[np.float64], meter: int, phase: int) -> float:
    """How far the downbeats of one reading stand out from the other beats."""
    place = (np.arange(downbeat.size) - phase) % meter
    contrast = float(downbeat[place == 0].mean() - downbeat[place != 0].mean())
    if meter == 4:
        contrast += _FOUR_FAVOURED + _HALF_BAR * float(downbeat[place == 2].mean() - downbeat[place % 2 == 1].mean())
    return contrast


def _places(downbeat: NDArray[np.float64], reading: _Reading) -> NDArray[np.int64]:
    """Place in the bar of each beat: the reading's, unless a long stretch clearly says that a bar was cut or added."""
    around = uniform_filter1d(downbeat, 2 * reading.meter - 1, mode="nearest")
    expected = np.arange(downbeat.size) % reading.meter == reading.downbeat
    worth = 0.5 * (downbeat - around) + 0.3 * expected
    return best_bar_places(worth[None, :], np.array([reading.meter], dtype=np.int64), _SLIP_COST)[1]


def _change(values: NDArray[np.float64], width: int) -> NDArray[np.float64]:
    """Cosine distance between the `width` pulses before and the `width` pulses from each pulse on."""
    total = np.concatenate([np.zeros((1, values.shape[1])), np.cumsum(values, axis=0)])
    b = np.arange(values.shape[0])
    after = total[np.minimum(b + width, b.size)] - total[b]
    before = total[b] - total[np.maximum(b - width, 0)]
    norm = np.linalg.norm(after, axis=1) * np.linalg.norm(before, axis=1)
    change = 1 - (after * before).sum(axis=1) / np.maximum(norm, 1e-9)
    change[0] = change[1:].mean()
    return change


def _standard(values: NDArray[np.float64] | NDArray[np.float32]) -> NDArray[np.float64]:
    exact = values.astype(np.float64)
    local = exact - uniform_filter1d(exact, min(exact.size, 64), mode="nearest")
    return np.clip(local / (local.std() + 1e-9), -3, 3)


def _confidence(downbeat: NDArray[np.float64], place: NDArray[np.int64], meter: int) -> float:
    """How clearly downbeats stand out against the next best place of the bar."""
    means = [float(downbeat[place == p].mean()) if np.any(place == p) else -1.0 for p in range(meter)]
    return float(np.clip((means[0] - max(means[1:])) / 2.0, 0, 1))
