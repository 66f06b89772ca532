"""From a band's sound to a record: a room, a bus that is ducked, pressed and limited, tone, drive and hiss.

No two records are mixed alike: each of these is there or not, much or little.
"""

import numpy as np
import scipy.ndimage
import scipy.signal

RATE_HZ = 22_050


def as_recorded(sound: np.ndarray, rng: np.random.Generator, beats_s: np.ndarray) -> np.ndarray:
    """Mono float32 as it might be released; `beats_s` are what ducking goes by."""
    if rng.random() < 0.35:
        sound = in_room(sound, rng)
    if beats_s.size and rng.random() < 0.08:
        sound = ducked(sound, rng, beats_s[:: int(rng.choice([1, 1, 2]))])
    if rng.random() < 0.3:
        sound = pressed(sound, rng)
    if rng.random() < 0.5:
        sound = scipy.signal.lfilter([1, rng.uniform(-0.5, 0.5)], [1], sound).astype(np.float32)
    if rng.random() < 0.2:
        low, high = sorted(rng.uniform([20, 3000], [150, 9500]))
        sos = scipy.signal.butter(1, [low, high], "bandpass", fs=RATE_HZ, output="sos")
        sound = scipy.signal.sosfilt(sos, sound).astype(np.float32)
    sound = sound / (np.max(np.abs(sound)) + 1e-6)
    if rng.random() < 0.3:
        drive = rng.uniform(1.5, 4)
        sound = np.tanh(drive * sound) / np.tanh(drive)
    if rng.random() < 0.3:
        sound = sound + rng.normal(0, 10 ** rng.uniform(-4, -2.3), sound.size)
    return sound.astype(np.float32)


def in_room(sound: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Reverberation: noise that dies away, sooner above than below, from half a second to four."""
    length_s = float(np.exp(rng.uniform(np.log(0.5), np.log(4.0))))
    t = np.arange(int(length_s * RATE_HZ)) / RATE_HZ
    tail = rng.normal(0, 1, t.size) * np.exp(-6.9 * t / length_s)
    dark = scipy.signal.lfilter([0.3], [1, -0.7], tail) * np.exp(-2 * t / length_s)
    room = dark + tail * np.exp(-9 * t / length_s)
    late = int(rng.uniform(0, 0.03) * RATE_HZ)
    wet = scipy.signal.fftconvolve(sound, np.concatenate([np.zeros(late), room]))[: sound.size]
    return (sound + _level(sound) / (_level(wet) + 1e-9) * rng.uniform(0.1, 0.9) * wet).astype(np.float32)


def ducked(sound: np.ndarray, rng: np.random.Generator, beats_s: np.ndarray) -> np.ndarray:
    """The level drawn down at beats and let come back, as a bus that a kick drum holds down."""
    gain, depth, back_s = np.ones(sound.size, np.float32), rng.uniform(0.3, 0.9), rng.uniform(0.06, 0.3)
    for at in (beats_s * RATE_HZ).astype(int):
        part = gain[at : at + int(4 * back_s * RATE_HZ)]
        np.minimum(part, 1 - depth * np.exp(-np.arange(part.size) / (back_s * RATE_HZ)), out=part)
    return sound * gain


def pressed(sound: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """What is loud made quieter, by a level that follows within some ten milliseconds, and the peaks held at a ceiling."""
    power = scipy.signal.lfilter([0.01], [1, -0.99], np.square(sound))
    level = np.sqrt(np.maximum(scipy.ndimage.maximum_filter1d(power, int(rng.uniform(0.01, 0.12) * RATE_HZ)), 1e-12))
    threshold, ratio = float(np.percentile(level, rng.uniform(20, 70))) + 1e-6, rng.uniform(0.3, 0.8)
    sound = sound * np.minimum(1, (level / threshold) ** -ratio)
    ceiling = float(np.percentile(np.abs(sound), rng.uniform(99, 99.95))) + 1e-9
    return np.clip(sound, -ceiling, ceiling).astype(np.float32)


def _level(sound: np.ndarray) -> float:
    return float(np.sqrt(np.mean(np.square(sound))))
