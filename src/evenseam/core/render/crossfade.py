"""Crossfade gains."""

import numpy as np
from numpy.typing import NDArray

LEAST_CORRELATION = -0.6  # sides that cancel more than this are not lifted further: it would be heard as a bump


def crossfade_gains(n_samples: int, correlation: float) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Gains of the outgoing and the incoming side over a fade.

    Constant power whatever the correlation r of the two sides: of raised-cosine shapes a and b the sum's power is
    a^2 + b^2 + 2rab, and both are divided by its root (after Fink, Holters and Zölzer 2016, signal-matched crossfades).
    r = 1 gives the plain raised cosine, r = 0 the equal-power fade.
    """
    phase = (np.arange(n_samples, dtype=np.float64) + 0.5) / n_samples
    incoming = 0.5 - 0.5 * np.cos(np.pi * phase)
    outgoing = 1 - incoming
    power = outgoing**2 + incoming**2 + 2 * max(LEAST_CORRELATION, correlation) * outgoing * incoming
    scale = 1 / np.sqrt(power)
    return (outgoing * scale).astype(np.float32), (incoming * scale).astype(np.float32)
