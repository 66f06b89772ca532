"""Makes the demo's films, lines and edit lists. Run by hand; the results ship.

python -m evenseam.demo.film.make [--timecode]     needs Pillow and, for the voice, the program espeak-ng
"""

import subprocess
import sys
import tempfile
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile as sf
from numpy.typing import NDArray
from scipy.signal import lfilter, resample_poly

from evenseam.core.exchange.marks import write_captions, write_edl
from evenseam.core.timebase import format_timecode
from evenseam.demo.film.cuts import FILM, FILMS, NARRATION, RATE, TAKES, DemoFilm, narration_lines
from evenseam.demo.film.draw import HEIGHT_PX, TAKE_PICTURES, WIDTH_PX, burn_in

HERE = Path(__file__).parent
_RATE_HZ = 48_000
_QUIET, _LOUD = 0.003, 0.35


def speak(words: str) -> NDArray[np.float32]:
    """The scratch voice, float32 (samples,) at 48 kHz, silence at both ends cut off."""
    with tempfile.NamedTemporaryFile(suffix=".wav") as file:
        subprocess.run(["espeak-ng", "-v", "en-gb", "-s", "148", "-p", "42", "-w", file.name, words], check=True)
        sound, rate = sf.read(file.name, dtype="float32")
    sound = resample_poly(sound, _RATE_HZ, rate).astype(np.float32)
    loud = np.flatnonzero(np.abs(sound) > 0.01)
    return sound[loud[0] : loud[-1] + 1]


def film_sound(spoken: list[NDArray[np.float32]], n_samples: int) -> NDArray[np.float32]:
    """The voice over a soft wind, float32 (samples,)."""
    rng = np.random.default_rng(7)
    wind = lfilter([0.02], [1, -0.98], rng.normal(size=n_samples))
    swell = 0.6 + 0.4 * np.sin(2 * np.pi * np.arange(n_samples) / _RATE_HZ / 11)
    out = (_QUIET * wind / np.std(wind) * swell).astype(np.float32)
    for (frame, _), voice in zip(NARRATION, spoken, strict=True):
        at = round(frame / RATE.fps * _RATE_HZ)
        out[at : at + voice.size] += _LOUD * voice / np.abs(voice).max()
    return out


def make(film: DemoFilm, sound: NDArray[np.float32] | None, with_timecode: bool) -> None:
    """Draw a film and write it as VP9 with Opus in MP4."""
    target = HERE / f"{film.slug}.mp4"
    with av.open(str(target), "w", options={"movflags": "+faststart"}) as out:
        picture = out.add_stream("libvpx-vp9", rate=RATE.fps)
        assert isinstance(picture, av.VideoStream)
        picture.width, picture.height, picture.pix_fmt = WIDTH_PX, HEIGHT_PX, "yuv420p"
        picture.codec_context.time_base, picture.codec_context.gop_size = 1 / RATE.fps, 13
        picture.options = {"crf": "40", "b": "0", "deadline": "good", "cpu-used": "5", "row-mt": "1", "lag-in-frames": "0"}
        if film.start_frames:
            picture.metadata["timecode"] = format_timecode(film.start_frames, RATE)
        voice = out.add_stream("libopus", rate=_RATE_HZ, layout="mono") if sound is not None else None
        if voice is not None:
            voice.bit_rate = 48_000
        for shot in film.sheet.shots:
            for frame in range(shot.start_frames, shot.end_frames):
                source = shot.source_start_frames + frame - shot.start_frames
                image = TAKE_PICTURES[shot.name](source / TAKES[shot.name].frames)
                if with_timecode:
                    burn_in(image, format_timecode(frame + film.start_frames, RATE))
                drawn = av.VideoFrame.from_ndarray(np.asarray(image), format="rgb24").reformat(format="yuv420p")
                drawn.pts, drawn.time_base = frame, Fraction(1) / RATE.fps
                out.mux(picture.encode(drawn))
        out.mux(picture.encode(None))
        if voice is not None and sound is not None:
            whole = av.AudioFrame.from_ndarray(sound[None, :], format="fltp", layout="mono")
            whole.sample_rate, whole.pts, whole.time_base = _RATE_HZ, 0, Fraction(1, _RATE_HZ)
            fitted = av.AudioResampler(format="s16", layout="mono", rate=_RATE_HZ, frame_size=960).resample(whole)
            for block in (*fitted, None):
                out.mux(voice.encode(block))


def main() -> None:
    """All of it."""
    with_timecode = "--timecode" in sys.argv
    spoken = [speak(words) for _, words in NARRATION]
    lines = narration_lines(tuple(Fraction(v.size, _RATE_HZ) for v in spoken))
    (HERE / "open_night.srt").write_text(write_captions(lines, RATE, "srt"))
    for film in FILMS:
        sheet = film.sheet
        (HERE / f"{film.slug}.edl").write_text(write_edl(sheet, film.title))
        n_samples = round(sheet.length_frames / RATE.fps * _RATE_HZ)
        make(film, film_sound(spoken, n_samples) if film is FILM else None, with_timecode)
        print(f"{film.slug}: {sheet.length_frames} frames")


if __name__ == "__main__":
    main()
