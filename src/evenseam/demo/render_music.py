"""Render the demo scores to the compressed files that ship with the application (done once, by hand, when a score changes).

Usage: python -m evenseam.demo.render_music [SLUG]...     (needs Debian's fluidsynth and fluid-soundfont-gm)
"""

import sys
from pathlib import Path

import fluidsynth
import numpy as np
import soundfile as sf

from evenseam.demo.scores import LICENSED, SCORES, Score
from evenseam.demo.sung import sing

RATE_HZ = 44_100
MUSIC = Path(__file__).parent / "music"
STOCK = Path(__file__).parents[1] / "catalogue" / "music"
_SOUND_FONT = Path("/usr/share/sounds/sf2/FluidR3_GM.sf2")
_BLOCK = 65_536  # libsndfile's Vorbis encoder fails on very long single writes
_QUALITY = 0.62  # the demo's size is a part of every checkout


def render(score: Score) -> np.ndarray:
    """The recording of a score, float32 (channels, samples), peak at -1 dB, every event at its own sample."""
    synth = fluidsynth.Synth(gain=0.4, samplerate=float(RATE_HZ))
    font = synth.sfload(str(_SOUND_FONT))
    events = []
    for part in (p for p in score.parts if not p.is_sung):
        synth.program_select(part.channel, font, 128 if part.channel == 9 else 0, part.program)
        synth.cc(part.channel, 7, part.volume)
        synth.cc(part.channel, 10, part.pan)
        for n in part.notes:
            events.append((round(score.second(n.beat) * RATE_HZ), 1, part.channel, n))
            events.append((round(score.second(n.beat + n.length) * RATE_HZ), 0, part.channel, n))
    events.sort(key=lambda e: (e[0], e[1]))
    blocks, now = [], 0
    for at, on, channel, n in events:
        if at > now:
            blocks.append(synth.get_samples(at - now))
            now = at
        if on:
            synth.noteon(channel, n.pitch, n.velocity)
        else:
            synth.noteoff(channel, n.pitch)
    blocks.append(synth.get_samples(round(score.ring_s * RATE_HZ)))
    synth.delete()
    sound = _with_voice(np.concatenate(blocks).reshape(-1, 2).T.astype(np.float32), score)
    return _with_noise(sound / np.abs(sound).max() * 10 ** (-1 / 20), score)


def _with_voice(sound: np.ndarray, score: Score) -> np.ndarray:
    """The sung-like parts laid over the others, in the middle, their peak at `volume` hundredths of the others'."""
    peak = float(np.abs(sound).max())
    for part in (p for p in score.parts if p.is_sung):
        line = [(score.second(n.beat), score.second(n.beat + n.length), 440 * 2 ** ((n.pitch - 69) / 12)) for n in part.notes]
        sound = sound + sing(line, sound.shape[1], RATE_HZ) * np.float32(peak * part.volume / 100)
    return sound


def _with_noise(sound: np.ndarray, score: Score) -> np.ndarray:
    """Room noise under the music and after it, for a piece that says so."""
    if score.noise_db is None:
        return sound
    sound = np.pad(sound, ((0, 0), (0, round(score.noise_tail_s * RATE_HZ))))
    noise = np.random.default_rng(3).standard_normal(sound.shape).astype(np.float32)
    return sound * 10 ** (-1 / 20) + noise * 10 ** (score.noise_db / 20)


def main(slugs: list[str]) -> None:
    """Render every score, or those named, to music/SLUG.ogg."""
    for score in (*SCORES, *LICENSED):
        if slugs and score.slug not in slugs:
            continue
        folder = MUSIC if score in SCORES else STOCK
        folder.mkdir(exist_ok=True)
        sound = render(score)
        path = folder / f"{score.slug}.ogg"
        with sf.SoundFile(str(path), "w", RATE_HZ, 2, format="OGG", subtype="VORBIS", compression_level=_QUALITY) as file:
            for start in range(0, sound.shape[1], _BLOCK):
                file.write(np.ascontiguousarray(sound[:, start : start + _BLOCK].T))
        print(f"{path.name}: {sound.shape[1] / RATE_HZ:.1f} s, {path.stat().st_size / 1e6:.2f} MB")


if __name__ == "__main__":
    main(sys.argv[1:])
