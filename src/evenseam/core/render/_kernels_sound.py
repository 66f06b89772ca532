"""Numeric kernels of rendering: arrays and scalars only, no checks; callers make exactly what is wanted here."""

import numpy as np

from evenseam.core.jit import fast_kernel, kernel


@kernel
def turn_frames(spectra, before, last, may_reset):  # type: ignore[no-untyped-def]
    """Turn the phases of frames, in place, so that each goes on where the one before it ended.

    spectra, before: complex64 (frames, channels, bins), of the source under each frame and one hop earlier. last:
    complex64 (channels, bins), the frame that was given out before the first one; holds the last one afterwards.
    may_reset: bool (frames,), an attack is inside. Around every peak all bins of all channels are turned alike.
    """
    n_frames, n_channels, n_bins = spectra.shape
    energy = np.empty(n_bins, dtype=np.float32)
    for f in range(n_frames):
        for k in range(n_bins):
            total = np.float32(0.0)
            for c in range(n_channels):
                v = spectra[f, c, k]
                total += v.real * v.real + v.imag * v.imag
            energy[k] = total
        low = 0
        peak = 0
        while low < n_bins:
            # Up to the peak, then down to where the next one begins to rise.
            peak = low
            while peak + 1 < n_bins and energy[peak + 1] >= energy[peak]:
                peak += 1
            high = peak + 1
            while high < n_bins and energy[high] < energy[high - 1]:
                high += 1
            now = np.float32(0.0)
            then = np.float32(0.0)
            re = np.float32(0.0)
            im = np.float32(0.0)
            for k in range(max(low, peak - 1), min(high, peak + 2)):
                now += energy[k]
                for c in range(n_channels):
                    a = last[c, k]
                    b = before[f, c, k]
                    re += a.real * b.real + a.imag * b.imag
                    im += a.imag * b.real - a.real * b.imag
                    then += b.real * b.real + b.imag * b.imag
            size = np.sqrt(re * re + im * im)
            if size > np.float32(1e-20) and not (may_reset[f] and now > np.float32(2.0) * then):
                turn = np.complex64(complex(re / size, im / size))
                for c in range(n_channels):
                    for k in range(low, high):
                        spectra[f, c, k] *= turn
            low = high
        for c in range(n_channels):
            for k in range(n_bins):
                last[c, k] = spectra[f, c, k]


@fast_kernel
def interpolate(sound, first, at, table, out):  # type: ignore[no-untyped-def]
    """Band-limited values of `sound` between its samples.

    sound: float32 (channels, samples), whose first sample is number `first`. at: float64 (n,), places, each far enough
    inside. table: float32 (parts + 1, taps), the kernel's weights at every part of a sample. out: float32 (channels, n),
    filled. Sums may be taken in any order, but always in the same one.
    """
    parts = table.shape[0] - 1
    taps = table.shape[1]
    weights = np.empty(taps, dtype=np.float32)
    for i in range(at.size):
        whole = int(np.floor(at[i]))
        away = (at[i] - whole) * parts
        row = int(away)
        share = np.float32(away - row)
        for t in range(taps):
            weights[t] = table[row, t] + share * (table[row + 1, t] - table[row, t])
        start = whole - taps // 2 + 1 - first
        for c in range(sound.shape[0]):
            total = np.float32(0.0)
            for t in range(taps):
                total += weights[t] * sound[c, start + t]
            out[c, i] = total
