"""Where exactly to cut: the two sides of a join laid on each other by their waveforms.

Beats are heard to a few milliseconds; waveforms agree to the sample. The side that comes is moved so that it correlates
best with the side it replaces. The fade then goes just before the beat, where both sides are calm, so that the attack
of the beat stays whole.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.sound import Sound, correlation

_MATCH_S = 0.040  # waveform compared on either side of the beat
_MOST_LAG_S = 0.012
_LAG_LIKELY_S = 0.005
_LEAST_MATCH = 0.2
_FADE_S = 0.020
_SUSTAINED_FADES_S = (0.040, 0.080, 0.160)
_STRUCK_DB, _RISE_S = 2.0, 0.015  # what rises by so much in so short a time was struck
_LEVEL_S, _LEVEL_STEP_S = 0.025, 0.005  # long enough that neither a low note nor the beating of two is a rise
_SILENT_POWER = 1e-9
_ATTACK_LEAD_S = 0.004  # an attack begins to rise a little before the beat
_EARLIEST_S = 0.055  # what ends with the beat before has ended by then, or nearly
_STEP_S = 0.002
_LATE_WEIGHT = 0.12  # of two calm places the one nearer to the beat
_BREATH_FADE_S = 0.45
_BREATH_REACH_S = 0.25  # a breath point is known to about a tenth of a second


@dataclass(frozen=True, slots=True)
class Cut:
    """Where to leave and to enter the track (samples; the middle of the fade), the fade's length, the correlation."""

    source_from: int
    source_to: int
    fade_samples: int
    correlation: float


def find_cut(samples: Sound, rate: int, from_samples: int, to_samples: int, earliest_s: float = _EARLIEST_S) -> Cut:
    """Cut for a join that leaves at beat `from_samples` and enters at beat `to_samples`.

    samples: float32 (channels, samples). earliest_s: how far before the beat the cut may lie. A join at the very start
    of the recording gets a shorter fade.
    """
    to_samples += _best_lag(samples, rate, from_samples, to_samples)
    half = max(1, min(round(_FADE_S * rate / 2), from_samples // 2, to_samples // 2))
    lead = _best_lead(samples, rate, from_samples, to_samples, half, earliest_s)
    a, b = from_samples - lead, to_samples - lead
    half = _longest_half(samples, rate, a, b, half)
    return Cut(a, b, 2 * half, correlation(_window(samples, a, half), _window(samples, b, half)))


def find_cut_anew(samples: Sound, rate: int, from_samples: int, to_samples: int) -> Cut:
    """Cut for a join that keeps no beat: close before the attack that comes, whatever is broken off."""
    half = max(1, min(round(_FADE_S * rate / 2), from_samples // 2, to_samples // 2))
    lead = half + round(_ATTACK_LEAD_S * rate)
    a, b = max(half, from_samples - lead), max(half, to_samples - lead)
    return Cut(a, b, 2 * half, correlation(_window(samples, a, half), _window(samples, b, half)))


def find_breath_cut(samples: Sound, rate: int, from_samples: int, to_samples: int) -> Cut:
    """Cut for a join in free time: a fade as long as a breath, where both sides sound least.

    No beat has to be kept there, so each side looks for its own quietest moment near its breath point, and the incoming
    side is then laid on the outgoing one by waveform.
    """
    half = max(1, min(round(_BREATH_FADE_S * rate / 2), from_samples // 2, to_samples // 2))
    a, b = (_quietest(samples, rate, at, half) for at in (from_samples, to_samples))
    b = max(half, b + _best_lag(samples, rate, a, b))
    return Cut(a, b, 2 * half, correlation(_window(samples, a, half), _window(samples, b, half)))


def _longest_half(samples: Sound, rate: int, a: int, b: int, half: int) -> int:
    """Half of the longest fade around a cut under which nothing is struck on either side: what is sustained takes longer."""
    longest = half
    for fade_s in _SUSTAINED_FADES_S:
        longer = round(fade_s * rate / 2)
        if longer > min(a, b) or max(a, b) + longer > samples.shape[1]:
            break
        if any(_steepest_rise_db(samples, rate, at, longer) >= _STRUCK_DB for at in (a, b)):
            break
        longest = longer if _is_smooth(samples, a, b, longer) else longest
    return longest


def _is_smooth(samples: Sound, a: int, b: int, half: int) -> bool:
    """Whether two sides that are mixed as in the middle of a fade are no rougher than the rougher of them is alone."""
    left, right = (_window(samples, at, half) for at in (a, b))
    gain = (2 + 2 * max(0.0, correlation(left, right))) ** -0.5  # of each, so that they keep their level together
    alone, other, mixed = (float(np.abs(np.diff(s, n=2, axis=1)).max()) for s in (left, right, gain * (left + right)))
    return mixed <= max(alone, other)


def _steepest_rise_db(samples: Sound, rate: int, at: int, half: int) -> float:
    """The steepest rise in level within `half` of a place, of the sound or of its heights alone."""
    hop, width, apart = max(1, round(_LEVEL_STEP_S * rate)), max(2, round(_LEVEL_S * rate)), round(_RISE_S / _LEVEL_STEP_S)
    sound = _window(samples, at, half + width // 2).mean(axis=0, dtype=np.float64)
    rises = []
    for heard in (sound, np.diff(sound)):
        total = np.concatenate([[0.0], np.cumsum(np.square(heard))])
        power = (total[width::hop] - total[:-width:hop]) / width + _SILENT_POWER
        rises.append(10 * float(np.log10(power[apart:] / power[:-apart]).max(initial=0.0)))
    return max(rises)


def _quietest(samples: Sound, rate: int, at: int, half: int) -> int:
    """The middle of the quietest stretch of a fade's length near `at`, inside the recording."""
    reach = round(_BREATH_REACH_S * rate)
    low, high = max(half, at - reach), min(samples.shape[1] - half, at + reach)
    if high <= low:
        return int(np.clip(at, half, max(half, samples.shape[1] - half)))
    power = np.square(np.asarray(samples[:, low - half : high + half], dtype=np.float64)).sum(axis=0)
    total = np.concatenate([[0.0], np.cumsum(power)])
    return low + int(np.argmin(total[2 * half :] - total[: total.size - 2 * half]))


def _window(samples: Sound, centre: int, half: int) -> Sound:
    """[centre - half, centre + half) with zeros outside the recording; (channels, 2 * half)."""
    out = np.zeros((samples.shape[0], 2 * half), dtype=np.float32)
    start, stop = centre - half, centre + half
    inside = slice(max(0, start), max(0, min(samples.shape[1], stop)))
    if inside.stop > inside.start:
        out[:, inside.start - start : inside.stop - start] = samples[:, inside]
    return out


def _slid_along(long: NDArray[np.float32], short: NDArray[np.float32]) -> NDArray[np.float32]:
    """The product of a stretch with a longer one wherever it lies inside, by their transforms; (long - short + 1,)."""
    size = 1 << (long.size + short.size - 2).bit_length()
    product = np.fft.irfft(np.fft.rfft(long, size) * np.fft.rfft(short[::-1], size), size)
    return np.asarray(product[short.size - 1 : long.size])


def _best_lag(samples: Sound, rate: int, from_samples: int, to_samples: int) -> int:
    """Shift of the incoming side, in samples, at which the two sides correlate best; small shifts are more likely."""
    half, most = round(_MATCH_S * rate), round(_MOST_LAG_S * rate)
    fixed = _window(samples, from_samples, half).mean(axis=0)
    moving = _window(samples, to_samples, half + most).mean(axis=0)
    product = _slid_along(moving, fixed)
    energy = np.convolve(np.square(moving, dtype=np.float64), np.ones(2 * half), mode="valid")
    norm = np.sqrt(np.maximum(energy, 0) * float(np.square(fixed, dtype=np.float64).sum()))
    if norm.max() < 1e-6:
        return 0
    lags = np.arange(-most, most + 1)
    likely = np.exp(-0.5 * (lags / (_LAG_LIKELY_S * rate)) ** 2)
    match = product / np.maximum(norm, 1e-3 * norm.max())
    best = int((match * likely).argmax())
    if match[best] * likely[best] <= _LEAST_MATCH:
        return 0
    # What is likely decides between peaks; the peak itself is where the waveforms agree, to the sample.
    near = slice(max(0, best - rate // 1000), best + rate // 1000 + 1)
    return int(lags[near][int(match[near].argmax())])


def _best_lead(samples: Sound, rate: int, from_samples: int, to_samples: int, half: int, earliest_s: float) -> int:
    """How far before the beat to cut: where the roughest moment of both sides is mildest and they agree best."""
    nearest = half + round(_ATTACK_LEAD_S * rate)
    leads = np.arange(nearest, max(nearest + 1, round(earliest_s * rate)), max(1, round(_STEP_S * rate)))
    leads = leads[(leads + half < from_samples) & (leads + half < to_samples)]
    if not leads.size:
        return min(nearest, max(0, min(from_samples, to_samples) - half))
    reach = int(leads[-1]) + half
    width = 2 * half
    rough = _roughness(samples, from_samples, reach, width) + _roughness(samples, to_samples, reach, width)
    at = reach - leads - half  # start of each fade inside the stretch before the beat
    worst = rough[np.clip(at, 0, rough.size - 1)]
    late = _LATE_WEIGHT * leads / leads[-1]
    return int(leads[int(np.argmin(worst / (float(np.median(worst)) + 1e-12) + late))])


def _roughness(samples: Sound, beat: int, reach: int, width: int) -> NDArray[np.float32]:
    """Peak second difference of any channel in every window of `width` samples before a beat."""
    before = _window(samples, beat - reach // 2 - 1, reach // 2 + 1)
    bend = np.abs(np.diff(before, n=2, axis=1, prepend=before[:, :1], append=before[:, -1:])).max(axis=0)
    return np.lib.stride_tricks.sliding_window_view(bend, min(width, bend.size)).max(axis=1)
