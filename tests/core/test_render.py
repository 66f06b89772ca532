"""Rendering: exact lengths, any stretch the same however asked for, even power across seams."""

from pathlib import Path

import numpy as np
import pytest
import soundfile as sf
from hypothesis import given
from hypothesis import strategies as st

from evenseam.core.audio import WavWriter
from evenseam.core.plan import Anchor, Brief, Passage, Plan
from evenseam.core.render import Renderer, render_blocks
from evenseam.core.render.crossfade import LEAST_CORRELATION, crossfade_gains
from evenseam.core.render.stretch import stretch_span
from tests.conftest import HeardTrack, heard

RATE = 22_050


def one_passage(n_source: int, n_out: int) -> Plan:
    return Plan("rearrange", RATE, n_out, (Passage((Anchor(0, 0), Anchor(n_source, n_out))),), (), 0.0)


@pytest.mark.parametrize("seconds", [31.0, 72.0])
def test_the_file_is_as_long_as_asked_and_not_silent_at_its_seams(track: HeardTrack, seconds: float, tmp_path: Path) -> None:
    target = round(seconds * track.audio.rate)
    plan = track.planner.plan(Brief(target))
    with WavWriter(tmp_path / "a.wav", plan.rate, 2, "int24", target) as writer:
        for block in render_blocks(plan, track.audio.samples):
            writer.write(block)
    assert sf.info(tmp_path / "a.wav").frames == target
    sound = sf.read(tmp_path / "a.wav", dtype="float32", always_2d=True)[0].T
    for seam in plan.seams:
        assert level(sound, seam.out_samples, plan.rate) > 0.25 * min(
            level(track.audio.samples, seam.source_from_samples, plan.rate),
            level(track.audio.samples, seam.source_to_samples, plan.rate),
        )


def level(sound: np.ndarray, at: int, rate: int) -> float:
    near = round(0.02 * rate)
    return float(np.sqrt(np.mean(np.square(sound[:, at - near : at + near]))))


def test_any_stretch_is_the_same_however_it_is_asked_for() -> None:
    track = heard("lantern_path")
    plan = track.planner.plan(Brief(41 * track.audio.rate))
    assert plan.seams
    assert plan.max_speed_change_pct() != 0
    whole = np.concatenate(list(render_blocks(plan, track.audio.samples)), axis=1)
    renderer = Renderer(plan, track.audio.samples)
    for seam in plan.seams:
        for start, stop in ((seam.out_samples - 9000, seam.out_samples + 50), (seam.out_samples - 3, seam.out_samples + 9001)):
            np.testing.assert_allclose(renderer.block(start, stop), whole[:, start:stop], rtol=0, atol=1e-6)
    assert renderer.block(plan.target_samples, plan.target_samples + 10).max() == 0


def test_unstretched_passages_are_the_track_bit_for_bit() -> None:
    source = np.random.default_rng(1).uniform(-1, 1, (2, RATE)).astype(np.float32)
    out = Renderer(one_passage(RATE, RATE), source).block(0, RATE - 300)
    assert np.array_equal(out, source[:, : RATE - 300])


@pytest.mark.parametrize("speed", [0.95, 0.99, 1.01, 1.06])
def test_stretched_clicks_land_where_the_anchors_say(speed: float) -> None:
    source = np.zeros((2, 6 * RATE), dtype=np.float32)
    at = np.arange(RATE, 5 * RATE, RATE // 2)
    for a in at:
        source[:, a : a + 40] = np.hanning(40) * np.cos(np.arange(40))
    n_out = round(source.shape[1] / speed)
    out = stretch_span(source, RATE, (0, source.shape[1]), n_out, 100)
    assert out.shape == (2, n_out + 200)
    for a in at:
        wanted = round((a + 20) / speed) + 100
        near = np.abs(out[0, wanted - 400 : wanted + 400])
        assert abs(int(near.argmax()) - 400) < 0.0015 * RATE


def test_stretched_music_keeps_its_level_where_spans_join() -> None:
    track = heard("hill_bus")
    plan = track.planner.plan(Brief(67 * track.audio.rate))
    sound = np.concatenate(list(render_blocks(plan, track.audio.samples)), axis=1)
    joins = [a for p in plan.passages for a in p.anchors[1:-1]]
    assert len(joins) > 4
    ratios = [level(sound, a.out, plan.rate) / level(track.audio.samples, a.source, plan.rate) for a in joins]
    assert 20 * np.log10(min(ratios)) > -4
    assert 20 * np.log10(max(ratios)) < 4


@given(st.integers(1, 500), st.floats(-1, 1))
def test_crossfades_keep_power_for_any_correlation(n: int, correlation: float) -> None:
    outgoing, incoming = crossfade_gains(n, correlation)
    power = outgoing**2 + incoming**2 + 2 * max(LEAST_CORRELATION, correlation) * outgoing * incoming
    np.testing.assert_allclose(power, 1, rtol=1e-5, atol=0)
    np.testing.assert_allclose(outgoing, incoming[::-1], rtol=1e-5, atol=1e-7)


def test_equal_sound_on_both_sides_of_a_seam_is_heard_unchanged() -> None:
    t = np.arange(8 * RATE) / RATE
    source = (0.3 * np.sin(2 * np.pi * 100 * t)).astype(np.float32)[None]
    from evenseam.core.plan import Seam

    period = RATE * 2  # a whole number of cycles
    seam = Seam(RATE, RATE, RATE + period, 400, 1.0, 100.0, "even", False)
    passages = (
        Passage((Anchor(0, 0), Anchor(RATE, RATE))),
        Passage((Anchor(RATE + period, RATE), Anchor(2 * RATE + period, 2 * RATE))),
    )
    out = Renderer(Plan("rearrange", RATE, 2 * RATE, passages, (seam,), 0.0), source).block(0, 2 * RATE - 300)
    np.testing.assert_allclose(out, source[:, : 2 * RATE - 300], rtol=0, atol=2e-4)
