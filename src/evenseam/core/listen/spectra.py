"""The short-time spectra everything is heard through: one pass, kept small.

All analysis is of the mono mix at about 22 kHz with a hop of about 10 ms, whatever the rate of the file.
"""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import scipy.fft
import scipy.signal
from numpy.typing import NDArray

from evenseam.core.audio.decode import Sound

ANALYSIS_RATE_HZ = 22_050
HOP_SAMPLES = 220  # at the analysis rate: 9.98 ms
_WINDOW_SAMPLES = 1024
_N_BANDS = 48
_CHUNK_HOPS = 4096
_CHROMA_LOW_HZ, _CHROMA_HIGH_HZ = 110.0, 2500.0

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class Spectra:
    """Per-hop descriptions: `bands` (hops, 48) log mel energies, `chroma` (hops, 12), `flux` (hops, 48) rises of `bands`.

    Hop h is centred on `h * samples_per_hop` samples of the original recording (`samples_per_hop` is exact).
    """

    bands: FloatArray
    chroma: FloatArray
    flux: FloatArray
    samples_per_hop: Fraction

    @property
    def n_hops(self) -> int:
        """Number of hops."""
        return int(self.bands.shape[0])


def to_analysis_rate(mono: Sound, rate: int) -> tuple[Sound, Fraction]:
    """The recording at about 22 kHz, and how many original samples one analysis sample stands for (exact)."""
    ratio = Fraction(ANALYSIS_RATE_HZ, rate).limit_denominator(320)
    if ratio == 1:
        return mono, Fraction(1)
    taps = scipy.signal.firwin(
        16 * max(ratio.numerator, ratio.denominator) + 1, 0.92 / max(ratio.numerator, ratio.denominator)
    ).astype(np.float32)
    resampled = scipy.signal.resample_poly(mono, ratio.numerator, ratio.denominator, window=taps)
    return resampled.astype(np.float32, copy=False), 1 / ratio


def spectra(mono: Sound, rate: int) -> Spectra:
    """Band energies, chroma and band-wise rises of a recording."""
    signal, samples_per_analysis_sample = to_analysis_rate(mono, rate)
    half = _WINDOW_SAMPLES // 2
    n_hops = signal.size // HOP_SAMPLES + 1
    padded = np.zeros(n_hops * HOP_SAMPLES + _WINDOW_SAMPLES, dtype=np.float32)
    padded[half : half + signal.size] = signal
    frames = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW_SAMPLES)[::HOP_SAMPLES][:n_hops]
    window = np.hanning(_WINDOW_SAMPLES).astype(np.float32)
    mel, pitch = _mel_weights(), _chroma_weights()
    bands = np.empty((n_hops, _N_BANDS), dtype=np.float32)
    chroma = np.empty((n_hops, 12), dtype=np.float32)
    for start in range(0, n_hops, _CHUNK_HOPS):
        part = slice(start, min(start + _CHUNK_HOPS, n_hops))
        magnitude = np.abs(scipy.fft.rfft(frames[part] * window, axis=1)).astype(np.float32, copy=False)
        bands[part] = np.log1p(20 * (magnitude @ mel))
        chroma[part] = np.sqrt(magnitude) @ pitch
    return Spectra(bands, chroma, _rises(bands), HOP_SAMPLES * samples_per_analysis_sample)


def _rises(bands: FloatArray) -> FloatArray:
    """Rise of each band over two hops against the loudest neighbour band before (Böck and Widmer 2013, SuperFlux)."""
    before = np.maximum(bands, np.maximum(np.roll(bands, 1, axis=1), np.roll(bands, -1, axis=1)))
    flux = np.zeros_like(bands)
    flux[2:] = np.maximum(bands[2:] - before[:-2], 0)
    return flux


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


def _chroma_weights() -> FloatArray:
    """(513, 12) how much each bin belongs to each pitch class (C first), Gaussian of a semitone's width."""
    bins_hz = np.fft.rfftfreq(_WINDOW_SAMPLES, 1 / ANALYSIS_RATE_HZ)
    usable = (bins_hz >= _CHROMA_LOW_HZ) & (bins_hz <= _CHROMA_HIGH_HZ)
    semitone = np.where(usable, 12 * np.log2(np.maximum(bins_hz, 1) / 440) + 9, 0)
    away = (semitone[:, None] - np.arange(12) + 6) % 12 - 6
    return (np.exp(-0.5 * (away / 0.6) ** 2) * usable[:, None]).astype(np.float32)
