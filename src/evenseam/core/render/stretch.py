"""Time-stretching of one span between two anchors, pitch kept (Signalsmith Stretch, MIT)."""

from fractions import Fraction

import numpy as np
import python_stretch

from evenseam.core.audio.decode import Sound

_CONTEXT_S = 0.25  # sound on either side, so that the stretcher is in full swing where the span begins


def stretch_span(samples: Sound, rate: int, source: tuple[int, int], n_out: int, margin: int) -> Sound:
    """Source stretch [a, b) laid on `n_out` samples, with `margin` more output samples on either side.

    Returns: float32 (channels, n_out + 2 * margin). Outside the recording there is silence.
    """
    start, stop = source
    speed = Fraction(stop - start, n_out)
    context = round(_CONTEXT_S * rate) + int(margin * max(float(speed), 1.0)) + 1
    given = with_silence(samples, start - context, stop + context)
    stretcher = python_stretch.Signalsmith.Stretch()
    stretcher.preset(given.shape[0], float(rate))
    stretcher.setTimeFactor(float(speed))
    stretched = np.asarray(stretcher.process(given), dtype=np.float32)
    first = round(context / speed) - margin
    wanted = n_out + 2 * margin
    out = np.zeros((given.shape[0], wanted), dtype=np.float32)
    part = stretched[:, first : first + wanted]
    out[:, : part.shape[1]] = part
    return out


def with_silence(samples: Sound, start: int, stop: int) -> Sound:
    """[start, stop) of the recording, zeros where it has nothing."""
    out = np.zeros((samples.shape[0], stop - start), dtype=np.float32)
    inside = slice(max(0, start), max(0, min(samples.shape[1], stop)))
    if inside.stop > inside.start:
        out[:, inside.start - start : inside.stop - start] = samples[:, inside]
    return out
