"""Fixtures shared by all tests: the demo tracks, heard once for all processes, and small sounds of known beats."""

from dataclasses import dataclass
from functools import cache, partial
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

from evenseam.catalogue.stock import MUSIC as STOCK
from evenseam.core.audio.decode import Audio, decode
from evenseam.core.chart import Chart
from evenseam.core.listen import listen
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.joins import Joins
from evenseam.demo.load import MUSIC
from evenseam.demo.scores import LICENSED, SCORES, Score
from tests.prepared import SOURCE, prepared

# Every run tries the same examples, so that what fails once fails again; `--hypothesis-profile explore` looks for new ones.
settings.register_profile("same", derandomize=True)
settings.register_profile("explore", derandomize=False)
settings.load_profile("same")


@dataclass(frozen=True)
class HeardTrack:
    """A demo track with its truth and all that planning needs."""

    score: Score
    audio: Audio
    chart: Chart
    planner: Planner


ALL_SCORES = {score.slug: score for score in (*SCORES, *LICENSED)}
# Different in metre, tempo, form and ending: what holds for these is not tried on every track again.
_TRIED = ("first_light", "lantern_path", "hill_bus", "long_exposure")


def music_file(score: Score) -> Path:
    return (STOCK if score in LICENSED else MUSIC) / f"{score.slug}.ogg"


@cache
def heard(slug: str) -> HeardTrack:
    score = ALL_SCORES[slug]
    audio = decode(music_file(score))
    kept = prepared(f"heard-{slug}", [SOURCE / "core", music_file(score)], partial(_hear, audio))
    chart = Chart.from_bytes((kept / "chart").read_bytes())
    joins = Joins.from_bytes(chart, (kept / "joins").read_bytes())
    return HeardTrack(score, audio, chart, Planner(chart, audio.samples, joins))


def _hear(audio: Audio, into: Path) -> None:
    chart = listen(audio)
    (into / "chart").write_bytes(chart.to_bytes())
    (into / "joins").write_bytes(Joins(chart).to_bytes())


@pytest.fixture(params=_TRIED)
def track(request: pytest.FixtureRequest) -> HeardTrack:
    """Some demo tracks in turn."""
    return heard(request.param)


def drum_loop(seconds: float, rate: int = 22_050, bpm: float = 120.0, meter: int = 4, lead_s: float = 0.0) -> Audio:
    """A plain beat: bass drum and a new chord on downbeats, a click on the others, a last chord that rings."""
    n = round(seconds * rate)
    sound = np.zeros(n + rate, dtype=np.float32)
    rng = np.random.default_rng(7)
    beat_s = 60 / bpm
    last = int((seconds - lead_s - 2.0) / beat_s / meter) * meter
    roots = (220.0, 174.6, 261.6, 196.0)
    for beat in range(last + 1):
        at = round((lead_s + beat * beat_s) * rate)
        is_down = beat % meter == 0
        length = round((1.8 if beat == last else beat_s * 0.9) * rate)
        t = np.arange(length) / rate
        decay = np.exp(-t * (2.0 if beat == last else 6.0))
        root = roots[(beat // meter) % 4]
        note = sum(np.sin(2 * np.pi * root * ratio * t) for ratio in (1, 1.25, 1.5)) * decay * 0.12
        hit = rng.standard_normal(length) * np.exp(-t * 90) * (0.15 if is_down else 0.25)
        kick = np.sin(2 * np.pi * 60 * t) * np.exp(-t * 25) * 0.7 if is_down else 0
        sound[at : at + length] += (note + hit + kick).astype(np.float32)[: max(0, sound.size - at)]
    sound = sound[:n]
    return Audio(np.stack([sound, sound * 0.8]) * np.float32(0.7), rate)


@pytest.fixture
def loop_wav(tmp_path: Path) -> Path:
    """A drum loop of 40 seconds as WAV."""
    from evenseam.core.audio.encode import write_wav

    audio = drum_loop(40.0)
    path = tmp_path / "Plain Loop.wav"
    write_wav(path, audio.samples, audio.rate, "int16")
    return path
