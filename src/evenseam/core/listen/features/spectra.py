"""The short-time spectra everything is heard through: one pass, kept small.

All analysis is of the mono mix at about 22 kHz with a hop of about 10 ms, whatever the rate of the file.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from evenseam.core.audio.long import Line
from evenseam.core.chart.description import N_CELLS, N_TONES
from evenseam.core.listen.features.intake import ANALYSIS_RATE_HZ

HOP_SAMPLES = 220  # at the analysis rate: 9.98 ms
_WINDOW_SAMPLES = 1024
_N_BANDS = 48
_CHUNK_SAMPLES, _CHUNK_HOPS = 1 << 18, 4096
_CHROMA_LOW_HZ, _CHROMA_HIGH_HZ = 110.0, 2500.0
TONE_HOPS = 4  # the tones move slowly: one row for so many hops
LOWEST_TONE = 33  # MIDI key: A1 (55 Hz), of 60 up to G#6 (1661 Hz)
_REGISTER_FROM = (48, 65)  # MIDI keys: below C3, to E4, and above
_TONE_WINDOW_SAMPLES = 4096
_LEVEL_RMS = 0.1  # every recording is heard at the same level

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class Spectra:
    """Per-hop descriptions: `bands` (hops, 48) log mel energies, `chroma` (hops, 12), `rise` (hops,) of the bands.

    `tones` (ceil(hops / 4), 60) are log energies by semitone, through a window long enough to tell bass notes apart.
    Hop h is centred on `h * samples_per_hop` samples of the original recording (`samples_per_hop` is exact).
    """

    bands: FloatArray
    chroma: FloatArray
    rise: FloatArray
    tones: FloatArray
    samples_per_hop: Fraction

    @property
    def n_hops(self) -> int:
        """Number of hops."""
        return int(self.bands.shape[0])


def spectra(mono: Line, samples_per_mono: Fraction) -> Spectra:
    """Band energies, chroma, band-wise rises and tones of a recording taken in at about 22 kHz (see `intake`)."""
    level = np.float32(_LEVEL_RMS / (_rms(mono) + 1e-6))
    n_hops = mono.size // HOP_SAMPLES + 1
    mel, (first_bin, pitch) = _mel_weights(), _chroma_weights()
    pitched = slice(first_bin, first_bin + pitch.shape[0])
    bands = np.empty((n_hops, _N_BANDS), dtype=np.float32)
    chroma = np.empty((n_hops, 12), dtype=np.float32)
    for part, magnitude in _magnitudes(mono, level, _WINDOW_SAMPLES, HOP_SAMPLES, mel.shape[0]):
        bands[part] = np.log1p(20 * (magnitude @ mel))
        chroma[part] = np.sqrt(magnitude[:, pitched]) @ pitch
    return Spectra(bands, chroma, _rise(bands), _tones(mono, level), HOP_SAMPLES * samples_per_mono)


def _rms(mono: Line) -> float:
    """Level of the whole, summed in parts, so that no second copy in double precision is needed."""
    parts = [np.square(mono[k : k + (1 << 20)], dtype=np.float64).sum() for k in range(0, mono.size, 1 << 20)]
    return float(np.sqrt(np.sum(parts) / max(1, mono.size)))


def _magnitudes(
    mono: Line, level: np.float32, window_samples: int, hop_samples: int, n_bins: int
) -> Iterator[tuple[slice, FloatArray]]:
    """The lowest bins of spectra centred on every hop, some hundred hops at a time; silence beyond the ends."""
    n = mono.size // hop_samples + 1
    half, window = window_samples // 2, np.hanning(window_samples).astype(np.float32) * level
    at_once = _CHUNK_SAMPLES // hop_samples
    for start in range(0, n, at_once):
        part = slice(start, min(start + at_once, n))
        low, high = part.start * hop_samples - half, (part.stop - 1) * hop_samples + half
        sound = np.pad(mono[max(0, low) : high], (max(0, -low), max(0, high - mono.size)))
        frames = np.lib.stride_tricks.sliding_window_view(sound, window_samples)[::hop_samples]
        bins = scipy.fft.rfft(frames * window, axis=1)[:, :n_bins]
        yield part, np.sqrt(np.square(bins.real) + np.square(bins.imag))


def _rise(bands: FloatArray) -> FloatArray:
    """Mean rise of all bands over two hops, each against the loudest neighbour before (Böck and Widmer 2013, SuperFlux)."""
    rise = np.zeros(bands.shape[0], dtype=np.float32)
    for start in range(2, bands.shape[0], _CHUNK_HOPS):
        now = bands[start : start + _CHUNK_HOPS]
        before = bands[start - 2 : start - 2 + now.shape[0]]
        loudest = np.maximum(before, np.maximum(np.roll(before, 1, axis=1), np.roll(before, -1, axis=1)))
        rise[start : start + now.shape[0]] = np.maximum(now - loudest, 0).mean(axis=1)
    return rise


def _tones(mono: Line, level: np.float32) -> FloatArray:
    """Log energy by semitone every four hops."""
    hop, weights = TONE_HOPS * HOP_SAMPLES, _tone_weights()
    tones = np.empty((mono.size // hop + 1, N_TONES), dtype=np.float32)
    for part, magnitude in _magnitudes(mono, level, _TONE_WINDOW_SAMPLES, hop, weights.shape[0]):
        tones[part] = np.log1p(5 * (magnitude @ weights))
    return tones


def _tone_weights() -> FloatArray:
    """(bins, 60) bell around each semitone, never narrower than the spectrum can tell apart."""
    top_hz = 440 * 2 ** ((LOWEST_TONE + N_TONES - 69) / 12)
    bins_hz = np.arange(int(top_hz * _TONE_WINDOW_SAMPLES / ANALYSIS_RATE_HZ) + 2) * ANALYSIS_RATE_HZ / _TONE_WINDOW_SAMPLES
    centre_hz = 440 * 2 ** ((LOWEST_TONE + np.arange(N_TONES) - 69) / 12)
    width_hz = np.maximum(centre_hz * 0.025, 0.6 * ANALYSIS_RATE_HZ / _TONE_WINDOW_SAMPLES)
    return np.exp(-0.5 * ((bins_hz[:, None] - centre_hz) / width_hz) ** 2).astype(np.float32)


def _mel_weights() -> FloatArray:
    """(513, 48) triangles, equally spaced in mel (O'Shaughnessy 1987) from 30 Hz to 10 kHz, each of unit sum."""
    bins_hz = np.fft.rfftfreq(_WINDOW_SAMPLES, 1 / ANALYSIS_RATE_HZ)
    edges = 700 * (
        10 ** (np.linspace(2595 * np.log10(1 + 30 / 700), 2595 * np.log10(1 + 10_000 / 700), _N_BANDS + 2) / 2595) - 1
    )
    rising = (bins_hz[:, None] - edges[:-2]) / np.diff(edges)[:-1]
    falling = (edges[2:] - bins_hz[:, None]) / np.diff(edges)[1:]
    weights = np.maximum(0, np.minimum(rising, falling))
    # The lowest triangles are narrower than a bin: each then takes its nearest bin.
    for band in np.flatnonzero(weights.sum(axis=0) < 1e-6):
        weights[np.argmin(np.abs(bins_hz - edges[band + 1])), band] = 1.0
    return (weights / weights.sum(axis=0)).astype(np.float32)


def _chroma_weights() -> tuple[int, FloatArray]:
    """The first bin that counts, and (bins, 12) how much each belongs to each pitch class (C first): a semitone's bell."""
    bins_hz = np.fft.rfftfreq(_WINDOW_SAMPLES, 1 / ANALYSIS_RATE_HZ)
    usable = np.flatnonzero((bins_hz >= _CHROMA_LOW_HZ) & (bins_hz <= _CHROMA_HIGH_HZ))
    semitone = 12 * np.log2(bins_hz[usable] / 440) + 9
    away = (semitone[:, None] - np.arange(12) + 6) % 12 - 6
    return int(usable[0]), np.exp(-0.5 * (away / 0.6) ** 2).astype(np.float32)


def tone_cells() -> FloatArray:
    """(tones, 36): 1 where a tone belongs to a pitch class (C first) of a register."""
    keys = LOWEST_TONE + np.arange(N_TONES)
    cell = 12 * np.searchsorted(_REGISTER_FROM, keys, side="right") + keys % 12
    return (cell[:, None] == np.arange(N_CELLS)).astype(np.float32)
