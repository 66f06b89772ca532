"""Pieces to sound, by fluidsynth and a soundfont, made a little different each time, as recordings are."""

import pathlib
from dataclasses import dataclass
from itertools import pairwise

import fluidsynth
import numpy as np

from ear.mixing import as_recorded
from ear.piece import Part, Piece

RATE_HZ = 22_050
FONTS = (
    ("/usr/share/sounds/sf2/FluidR3_GM.sf2", 0.45),
    ("/usr/share/sounds/sf2/TimGM6mb.sf2", 0.2),
    ("/usr/share/sounds/sf3/MuseScore_General_Lite.sf3", 0.25),
    ("/usr/share/sounds/sf2/OPL-3_FM_128M.sf2", 0.1),
)
SWELL = 2
VOWELS_HZ = ((800, 1150, 2900), (350, 2000, 2800), (270, 2140, 2950), (450, 800, 2830), (325, 700, 2700))


@dataclass
class Heard:
    """A rendered piece: mono sound at 22.05 kHz, and what is true of it (s)."""

    sound: np.ndarray
    beats_s: np.ndarray
    downbeats_s: np.ndarray
    lead_s: list[tuple[float, float]]
    voice_s: list[tuple[float, float]]


class Band:
    """The synthesisers, one per soundfont, loaded once."""

    def __init__(self) -> None:
        found = [(f, w) for f, w in FONTS if pathlib.Path(f).exists()]
        self.weights = np.array([w for _, w in found]) / sum(w for _, w in found)
        self.synths = []
        for path, _ in found:
            synth = fluidsynth.Synth(gain=0.4, samplerate=float(RATE_HZ))
            self.synths.append((synth, synth.sfload(path)))

    def play(self, piece: Piece, rng: np.random.Generator) -> np.ndarray:
        """The piece as mono float32."""
        synth, font = self.synths[rng.choice(len(self.synths), p=self.weights)]
        synth.system_reset()
        if rng.random() < 0.3:
            synth.set_reverb(rng.uniform(0.2, 0.9), rng.uniform(0, 1), rng.uniform(0, 1), rng.uniform(0, 0.8))
        channels = [c for c in range(16) if c != 9]
        events: list[tuple[int, int, int, int, int]] = []
        kit = int(rng.choice([0, 0, 0, 8, 16, 24, 25, 32, 40, 48]))
        for k, part in enumerate(piece.parts[:15]):
            channel = 9 if part.program is None else channels[k]
            synth.program_select(channel, font, 128 if channel == 9 else 0, kit if channel == 9 else part.program)
            synth.cc(channel, 7, part.volume)
            synth.cc(channel, 10, part.pan)
            synth.cc(channel, 11, 127)
            synth.cc(channel, 91, int(rng.integers(0, 100)))
            events += _events(piece, part, channel, rng)
        events.sort(key=lambda e: (e[0], e[1] == 1))
        out, position = [], 0
        for at, on, channel, pitch, velocity in events:
            if at > position:
                out.append(np.array(synth.get_samples(at - position), dtype=np.int16))
                position = at
            if on == SWELL:
                synth.cc(channel, 11, velocity)
            elif on:
                synth.noteon(channel, pitch, velocity)
            else:
                synth.noteoff(channel, pitch)
        out.append(np.array(synth.get_samples(int(2.5 * RATE_HZ)), dtype=np.int16))
        stereo = np.concatenate(out).reshape(-1, 2).astype(np.float32) / 32768
        return stereo.mean(axis=1)


def _events(piece: Piece, part: Part, channel: int, rng: np.random.Generator) -> list[tuple[int, int, int, int, int]]:
    """(sample, 1 on, 0 off or SWELL, channel, key, velocity or level). A key struck again while held is let go first."""
    out = [(max(0, int(piece.seconds(b) * RATE_HZ)), SWELL, channel, 0, int(127 * v)) for b, v in part.swells]
    again = _struck_again(part)
    for on, length, pitch, velocity in part.notes:
        a = max(0.0, piece.seconds(on) + part.late_s + rng.normal(0, part.jitter_s))
        b = max(a + 0.03, piece.seconds(on + length) + part.late_s)
        if (on, pitch) in again:
            b = min(b, max(a + 0.03, piece.seconds(again[on, pitch]) + part.late_s - 0.005))
        v = int(np.clip(127 * velocity * rng.uniform(0.88, 1.05), 8, 127))
        if 0 <= pitch < 128:
            out.append((int(a * RATE_HZ), 1, channel, int(pitch), v))
            out.append((int(b * RATE_HZ), 0, channel, int(pitch), 0))
    return out


def _struck_again(part: Part) -> dict[tuple[float, int], float]:
    """When each note's key is struck next, for those that are."""
    by_key: dict[int, list[float]] = {}
    for on, _, pitch, _ in sorted(part.notes):
        by_key.setdefault(pitch, []).append(on)
    return {(a, pitch): b for pitch, ons in by_key.items() for a, b in pairwise(ons) if b > a}


def hear(piece: Piece, band: Band, rng: np.random.Generator, speech: list[np.ndarray]) -> Heard:
    """A piece as it might be recorded, with its truth."""
    sung = [p for p in piece.parts if p.is_voice and rng.random() < 0.85]
    played = [p for p in piece.parts if p not in sung]
    sound = band.play(Piece(played, piece.beat_s, piece.downbeat, swing=piece.swing, swing_unit=piece.swing_unit), rng)
    lead_s = [s for p in piece.parts if p.is_lead for s in _spans(piece, p)]
    voice_s = [s for p in piece.parts if p.is_voice for s in _spans(piece, p)]
    for part in sung:
        sound = _add(sound, sing(piece, part, rng, sound.size), 0, rng.uniform(0.4, 1.4))
    if speech and rng.random() < 0.12:
        at = rng.uniform(2, 10)
        while at < sound.size / RATE_HZ - 8:
            line = speech[rng.integers(len(speech))]
            sound = _add(sound, line, int(at * RATE_HZ), rng.uniform(0.5, 2.0))
            span = (at, at + line.size / RATE_HZ)
            lead_s.append(span)
            voice_s.append(span)
            at = span[1] + rng.uniform(0.5, 8)
    n = piece.downbeat.size
    beats = piece.beat_s[:n]
    return Heard(as_recorded(sound, rng, beats), beats, beats[piece.downbeat], lead_s, voice_s)


def _spans(piece: Piece, part: Part) -> list[tuple[float, float]]:
    return [(piece.seconds(a), piece.seconds(a + d)) for a, d, _, _ in part.notes]


def _add(sound: np.ndarray, other: np.ndarray, at: int, level: float) -> np.ndarray:
    """`other` laid over `sound` from `at`, at `level` times the music's own level."""
    out = sound.copy()
    part = other[: max(0, out.size - at)]
    scale = level * (np.sqrt(np.mean(sound**2)) + 1e-4) / (np.sqrt(np.mean(other**2)) + 1e-6)
    out[at : at + part.size] += part * np.float32(scale)
    return out


def sing(piece: Piece, part: Part, rng: np.random.Generator, n: int) -> np.ndarray:
    """A sung-like line: a buzz with vibrato through the resonances of vowels, with breath and consonants.

    No two singers are alike: register, vowels, their breadth, how the tone falls off, vibrato, gliding and noise are drawn.
    """
    out = np.zeros(n, dtype=np.float32)
    singer = _Singer(
        shift=_to_register(part, rng),
        size=float(rng.uniform(0.85, 1.25)),
        breadth=float(rng.uniform(0.6, 1.6)),
        fall=float(rng.uniform(0.25, 0.8)),
        vibrato_hz=float(rng.uniform(4.5, 6.5)),
        depth=float(rng.choice([0.0, rng.uniform(0.004, 0.018)], p=[0.25, 0.75])),
        glide=float(rng.choice([0.0, rng.uniform(0.02, 0.12)])),
        consonants=float(rng.uniform(0.2, 0.9)),
        breath=float(rng.choice([0.0, rng.uniform(0.01, 0.08)])),
    )
    before = None
    for on, length, pitch, velocity in part.notes:
        a, b = piece.seconds(on), piece.seconds(on + length)
        i, m = int(a * RATE_HZ), int((b - a) * RATE_HZ)
        if m < 400 or i < 0 or i + m > n:
            continue
        f0 = 440 * 2 ** ((pitch - singer.shift - 69) / 12)
        out[i : i + m] += (singer.syllable(m, f0, before or f0, rng) * velocity).astype(np.float32)
        before = f0
    return out


def _to_register(part: Part, rng: np.random.Generator) -> int:
    """Semitones down that bring a line nearest to the middle of a register: from basses (E3) to high sopranos (D5)."""
    centre, middle = float(np.median([p for _, _, p, _ in part.notes])), float(rng.uniform(52, 75))
    return 12 * round((centre - middle) / 12)


@dataclass(frozen=True)
class _Singer:
    shift: int
    size: float
    breadth: float
    fall: float
    vibrato_hz: float
    depth: float
    glide: float
    consonants: float
    breath: float

    def syllable(self, m: int, f0: float, before: float, rng: np.random.Generator) -> np.ndarray:
        """One note: a vowel that may turn into another, after a consonant that may hiss."""
        t = np.arange(m) / RATE_HZ
        slide = (before / f0 - 1) * np.exp(-t / self.glide) if self.glide else 0.0
        swing = self.depth * np.sin(2 * np.pi * self.vibrato_hz * t) * np.minimum(1, t / 0.3)
        wave = 2 * np.pi * f0 * np.cumsum(1 + slide + swing) / RATE_HZ
        turn = np.clip((t / t[-1] - rng.uniform(0.3, 0.8)) * 6, 0, 1) if rng.random() < 0.4 else 0.0
        first, then = self._vowel(rng), self._vowel(rng)
        tone = np.zeros(m)
        for h in range(1, min(40, int(9000 / f0)) + 1):
            gain = self._gain(h * f0, first) * (1 - turn) + self._gain(h * f0, then) * turn
            tone += (gain + 0.02) / h**self.fall * np.sin(h * wave)
        tone += self.breath * rng.normal(0, 1, m)
        tone *= np.minimum(1, t / rng.uniform(0.02, 0.08)) * np.minimum(1, (t[-1] - t) / 0.05)
        if rng.random() >= self.consonants:
            return tone
        noise = rng.normal(0, rng.uniform(0.2, 0.7), m) * np.exp(-t / rng.uniform(0.012, 0.06))
        return tone + (np.diff(noise, prepend=0.0) if rng.random() < 0.5 else noise)

    def _vowel(self, rng: np.random.Generator) -> tuple[float, ...]:
        i, j = rng.integers(len(VOWELS_HZ), size=2)
        share = rng.random()
        return tuple(share * a + (1 - share) * b for a, b in zip(VOWELS_HZ[i], VOWELS_HZ[j], strict=True))

    def _gain(self, f: float, formants: tuple[float, ...]) -> float:
        breadths = [self.breadth * (90 + 0.06 * g) for g in formants]
        peaks = [np.exp(-0.5 * ((f - g * self.size) / b) ** 2) for g, b in zip(formants, breadths, strict=True)]
        return float(sum(peak / (1 + k) for k, peak in enumerate(peaks)))
