"""The ear: a small network of our own that hears beats, downbeats, metre, leads and voices in the spectra.

It was taught on recordings rendered from scores written by our own code; bench/ear holds that code, and docs/listening.md
how to run it. A temporal convolutional network after Davies and Böck (2019), run here.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.listen.features.networks import network
from evenseam.core.listen.features.spectra import TONE_HOPS, Spectra

STEP_HOPS = 2
METERS = (2, 3, 4, 5, 6, 7)
_CHUNK_STEPS, _CONTEXT_STEPS = 4096, 1024  # 20 s of context either side: as much as the network looks at in the main
_HEADS = 5 + len(METERS)
# The network was taught with beats and downbeats weighing so much more than what lies between them.
_TAUGHT_WEIGHT = {"beat": 4.0, "downbeat": 8.0}

FloatArray = NDArray[np.float32]


@dataclass(frozen=True, slots=True, eq=False)
class Hearing:
    """What is heard at every step of two hops: probabilities, float32 (steps,); `meter` (steps, 6) for METERS.

    `beat` counts downbeats too. `lead`: a voice or lead plays; `voice`: it is a voice. `ternary`: beats fall in three.
    """

    beat: FloatArray
    downbeat: FloatArray
    lead: FloatArray
    voice: FloatArray
    ternary: FloatArray
    meter: FloatArray


def hear(spec: Spectra) -> Hearing:
    """Run the network over the spectra, piece by piece, so that long recordings take no more memory than short ones."""
    n_steps = -(-spec.n_hops // (2 * STEP_HOPS)) * 2
    out = np.empty((n_steps, _HEADS), dtype=np.float32)
    for first in range(0, n_steps, _CHUNK_STEPS):
        last = min(first + _CHUNK_STEPS, n_steps)
        low, high = max(0, first - _CONTEXT_STEPS), min(n_steps, last + _CONTEXT_STEPS)
        bands = _rows(spec.bands, low * STEP_HOPS, high * STEP_HOPS)
        tones = _rows(spec.tones, low * STEP_HOPS // TONE_HOPS, high * STEP_HOPS // TONE_HOPS)
        heard = network("ear").run(None, {"bands": bands[None], "tones": tones[None]})[0][0]
        out[first:last] = heard[first - low : last - low]
    return Hearing(
        _probability(out[:, 0], _TAUGHT_WEIGHT["beat"]),
        _probability(out[:, 1], _TAUGHT_WEIGHT["downbeat"]),
        _probability(out[:, 2], 1.0),
        _probability(out[:, 3], 2.0),
        _probability(out[:, 4], 1.0),
        _probability(out[:, 5:], 1.0),
    )


def _rows(values: FloatArray, low: int, high: int) -> FloatArray:
    part = values[low:high]
    missing = high - low - part.shape[0]
    return np.pad(part, ((0, missing), (0, 0))) if missing else np.ascontiguousarray(part)


def _probability(logit: FloatArray, taught_weight: float) -> FloatArray:
    return (1 / (1 + np.exp(np.log(taught_weight) - logit))).astype(np.float32)
