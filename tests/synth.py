"""The tests' own tiny synthesiser: a few players whose every beat is known."""

from dataclasses import dataclass

import numpy as np

from evenseam.core.audio.decode import Audio

_CHORDS = ((0, 4, 7), (9, 12, 16), (5, 9, 12), (7, 11, 14))


@dataclass(frozen=True)
class Played:
    """Sound with its truth in seconds."""

    audio: Audio
    beats_s: np.ndarray
    downbeats_s: np.ndarray


def play(
    bars: int = 24,
    beats_per_bar: int = 4,
    bpm: float = 112.0,
    rate: int = 22_050,
    drift: float = 0.0,
    swing: float = 0.5,
    ternary: bool = False,
    pickup_beats: int = 0,
    head_s: float = 0.3,
    tail_s: float = 1.5,
    hiss: float = 0.0,
    count_in: bool = False,
    bars_per_chord: int = 2,
    off_beat_bars: int = 0,
) -> Played:
    """Drums, bass, chords that change with the bar, and a tune; a last chord on the downbeat after the last bar.

    drift: speed at the end against the start, 0.1 is a tenth faster. ternary: every beat falls in three.
    off_beat_bars: from bar 8 on so many bars hold nothing but chords struck between the beats.
    """
    rng = np.random.default_rng(3)
    counted = beats_per_bar if count_in else 0
    n = counted + pickup_beats + bars * beats_per_bar + 1
    spans = 60 / (bpm * np.linspace(1, 1 + drift, n))
    beats = head_s + np.concatenate([[0], np.cumsum(spans)[:-1]])
    first = counted + pickup_beats
    end_s = beats[-1] + 2.5
    sound = np.zeros(round((end_s + tail_s) * rate), dtype=np.float64)

    def at(beat: float) -> float:
        k = min(int(beat), n - 2)
        within = beat - k
        within = within * 2 * swing if within < 0.5 else swing + (within - 0.5) * 2 * (1 - swing)
        return float(beats[k] + within * (beats[k + 1] - beats[k]))

    for k in range(counted):
        _add(sound, rate, beats[k], _click(rate), 0.5)
    for k in range(pickup_beats):
        _add(sound, rate, beats[counted + k], _tone(rate, 69 + 2 * k, 0.4, 3.0, 5), 0.2)
    for b in range(bars):
        start = first + b * beats_per_bar
        chord = _CHORDS[b // bars_per_chord % 4]
        if 8 <= b < 8 + off_beat_bars:
            _strike_between(sound, rate, [at(start + k + 0.5) for k in range(beats_per_bar)], chord)
            continue
        for p in chord:
            _add(sound, rate, at(start), _tone(rate, 57 + p, at(start + beats_per_bar) - at(start), 1.0, 4), 0.05)
        for k in range(beats_per_bar):
            _add(
                sound, rate, at(start + k), _tone(rate, 33 + chord[0] + (7 if k == beats_per_bar - 1 else 0), 0.3, 5.0, 3), 0.25
            )
            _add(
                sound, rate, at(start + k), _kick(rate) if k == 0 or (beats_per_bar == 4 and k == 2) else _snare(rate, rng), 0.5
            )
            parts = (0, 1 / 3, 2 / 3) if ternary else (0, 0.5)
            for part in parts:
                _add(sound, rate, at(start + k + part), _hat(rate, rng), 0.12 if part else 0.2)
                if rng.random() < 0.6:
                    _add(sound, rate, at(start + k + part), _tone(rate, 69 + chord[rng.integers(3)], 0.25, 4.0, 5), 0.08)
    _end(sound, rate, beats[-1])
    sound += hiss * rng.standard_normal(sound.size)
    stereo = np.stack([sound, 0.8 * sound]).astype(np.float32)
    music = beats[counted:]
    return Played(Audio(stereo, rate), music, beats[first::beats_per_bar])


def _end(sound: np.ndarray, rate: int, at_s: float) -> None:
    for p in _CHORDS[0]:
        _add(sound, rate, at_s, _tone(rate, 57 + p, 2.4, 1.5, 4), 0.12)
    _add(sound, rate, at_s, _kick(rate), 0.6)


def _strike_between(sound: np.ndarray, rate: int, at_s: list[float], chord: tuple[int, ...]) -> None:
    for t in at_s:
        for p in chord:
            _add(sound, rate, t, _tone(rate, 57 + p, 0.2, 8.0, 5), 0.15)


def free_music(seconds: float = 60.0, rate: int = 22_050) -> Audio:
    """Slow swells at uneven times, with quiet between them: music without a beat."""
    rng = np.random.default_rng(5)
    sound, t = np.zeros(round((seconds + 4) * rate)), 0.5
    while t < seconds - 4:
        length = float(rng.uniform(3.0, 7.0))
        for p in rng.choice([0, 2, 4, 7, 9, 12], 3, replace=False):
            m = round(length * rate)
            swell = np.sin(np.pi * np.arange(m) / m) ** 1.5
            _add(
                sound,
                rate,
                t + float(rng.uniform(0, 0.5)),
                swell * np.sin(2 * np.pi * _hz(52 + int(p)) * np.arange(m) / rate),
                0.15,
            )
        t += length * float(rng.uniform(0.75, 1.1))
    return Audio(np.stack([sound, sound]).astype(np.float32), rate)


def _hz(key: int) -> float:
    return 440 * 2 ** ((key - 69) / 12)


def _tone(rate: int, key: int, length_s: float, fall: float, harmonics: int) -> np.ndarray:
    t = np.arange(round(length_s * rate)) / rate
    wave = sum(np.sin(2 * np.pi * _hz(key) * h * t) / h for h in range(1, harmonics + 1) if _hz(key) * h < rate / 2.2)
    return np.asarray(wave * np.exp(-fall * t) * np.minimum(1, (length_s - t) / 0.02))


def _kick(rate: int) -> np.ndarray:
    t = np.arange(round(0.2 * rate)) / rate
    return np.sin(2 * np.pi * (55 * t + 6 * (1 - np.exp(-t * 40)) / 4)) * np.exp(-t * 18)


def _snare(rate: int, rng: np.random.Generator) -> np.ndarray:
    t = np.arange(round(0.15 * rate)) / rate
    return (rng.standard_normal(t.size) * 0.5 + np.sin(2 * np.pi * 190 * t)) * np.exp(-t * 28)


def _hat(rate: int, rng: np.random.Generator) -> np.ndarray:
    t = np.arange(round(0.05 * rate)) / rate
    return np.diff(rng.standard_normal(t.size), prepend=0.0) * np.exp(-t * 90)


def _click(rate: int) -> np.ndarray:
    t = np.arange(round(0.03 * rate)) / rate
    return np.sin(2 * np.pi * 1800 * t) * np.exp(-t * 150)


def _add(sound: np.ndarray, rate: int, at_s: float, what: np.ndarray, level: float) -> None:
    start = round(at_s * rate)
    part = what[: max(0, sound.size - start)]
    sound[start : start + part.size] += level * part
