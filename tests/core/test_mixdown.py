"""Programmes: clips of any rate lie where they are put, to the sample, and are the same however they are asked for."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.mix.curves import CurveError, GainCurve, GainPoint
from evenseam.core.plan.model import Fade
from evenseam.core.render import Bus, Clip, Mixdown, Programme, Recorded, alone
from evenseam.core.render.programme import ProgrammeError

RATES = (22_050, 44_100, 48_000, 88_200, 96_000)
RATE = 48_000


def wave(rate: int, seconds: float = 9.0, hz: float = 1000.0) -> Recorded:
    """A tone that begins and ends softly at places that no rate is special for, in stereo."""
    t = np.arange(round(rate * seconds)) / rate
    shape = np.exp(-0.5 * ((t - 4.5) / 0.7) ** 2)
    tone = (np.sin(2 * np.pi * hz * t) * shape).astype(np.float32)
    return Recorded(np.stack([tone, -tone]), rate)


def whole(programme: Programme, sounds: dict[str, Recorded]) -> np.ndarray:
    return np.concatenate(list(Mixdown(programme, sounds).blocks()), axis=1)


@pytest.mark.parametrize("rate", RATES)
def test_a_clip_of_any_rate_is_where_it_was_put_to_the_sample(rate: int) -> None:
    programme = Programme(RATE, 2, 10 * RATE, (Clip("a", 12_345, 8 * RATE, start_samples=rate // 2),))
    made = whole(programme, {"a": wave(rate)})
    t = np.arange(10 * RATE - 12_345 - 1) / RATE + 0.5
    wanted = np.sin(2 * np.pi * 1000 * t) * np.exp(-0.5 * ((t - 4.5) / 0.7) ** 2)
    np.testing.assert_allclose(made[0, 12_345 : 12_345 + 8 * RATE], wanted[: 8 * RATE], rtol=0, atol=3e-4)
    assert not made[:, :12_345].any()
    assert not made[:, 12_345 + 8 * RATE :].any()


def test_clips_of_five_rates_add_up_to_five_times_one() -> None:
    clips = tuple(Clip(str(rate), 1_000, 8 * RATE) for rate in RATES)
    made = whole(Programme(RATE, 2, 9 * RATE, clips), {str(rate): wave(rate) for rate in RATES})
    one = whole(Programme(RATE, 2, 9 * RATE, clips[2:3]), {"48000": wave(RATE)})
    np.testing.assert_allclose(made, 5 * one, rtol=0, atol=2e-3)


@settings(deadline=None, max_examples=15)
@given(st.sampled_from(RATES), st.lists(st.tuples(st.integers(0, 5 * RATE), st.integers(1, RATE)), min_size=1, max_size=4))
def test_any_block_in_any_order_is_that_of_the_whole(rate: int, asked: list[tuple[int, int]]) -> None:
    programme = Programme(RATE, 2, 6 * RATE, (Clip("a", 777, 5 * RATE),))
    sounds = {"a": wave(rate)}
    printed, mixdown = whole(programme, sounds), Mixdown(programme, sounds)
    for start, length in asked:
        block = mixdown.block(start, start + length)
        stop = min(start + length, 6 * RATE)
        assert np.array_equal(block[:, : stop - start], printed[:, start:stop])


def test_fades_begin_and_end_with_their_clip_and_their_bus() -> None:
    ones = {"one": Recorded(np.ones((1, 500), dtype=np.float32), RATE)}
    clip = Clip("one", 100, 500, fade_in=Fade(50), fade_out=Fade(101))
    bus = Bus("music", fade_in=Fade(200), fade_out=Fade(401))
    out = Mixdown(Programme(RATE, 1, 800, (clip,), (bus,)), ones).block(0, 800)[0]
    at = np.arange(800)
    of_clip = np.clip((at - 100) / 50, 0, 1) * np.clip((599 - at) / 100, 0, 1)
    of_bus = np.clip(at / 200, 0, 1) * np.clip((799 - at) / 400, 0, 1)
    assert np.abs(out - of_clip * of_bus).max() < 1e-6


def test_gain_curves_of_clips_and_buses_multiply() -> None:
    ones = Recorded(np.ones((1, 1000), dtype=np.float32), RATE)
    rise = GainCurve((GainPoint(0, -40.0), GainPoint(100, 0.0)))
    dip = GainCurve((GainPoint(200, 0.0), GainPoint(300, -120.0)))
    clip = Clip("a", 100, 500, bus="dialogue", gain=rise)
    made = whole(Programme(RATE, 2, 700, (clip,), (Bus("dialogue", dip),)), {"a": ones})
    assert made[0, 100] == pytest.approx(0.01, rel=1e-5)
    assert made[0, 150] == pytest.approx(0.1, rel=1e-5)
    assert made[0, 200] == 1.0
    assert made[0, 225] == pytest.approx(10 ** (-30 / 20), rel=1e-5)
    assert not made[:, 300:].any(), "-120 dB is silence"
    assert np.array_equal(made[0], made[1]), "one channel is heard on both sides"


def test_a_sound_alone_at_its_own_rate_is_copied_bit_for_bit() -> None:
    samples = np.random.default_rng(2).uniform(-1, 1, (2, 3 * RATE)).astype(np.float32)
    assert np.array_equal(whole(alone("a", RATE, 2, 3 * RATE), {"a": Recorded(samples, RATE)}), samples)
    mono = whole(alone("a", RATE, 1, 3 * RATE), {"a": Recorded(samples, RATE)})
    np.testing.assert_allclose(mono[0], samples.mean(axis=0), rtol=1e-6)


@pytest.mark.parametrize(
    "parts",
    [{"clips": (Clip("a", 0, 9, bus="nowhere"),)}, {"n_samples": 0}, {"buses": (Bus("music"), Bus("music"))}, {"channels": 3}],
)
def test_a_programme_that_does_not_hold_together_cannot_be_made(parts: dict[str, Any]) -> None:
    with pytest.raises(ProgrammeError):
        Programme(**{"rate": RATE, "channels": 2, "n_samples": 9, "clips": (), **parts})
    with pytest.raises(CurveError):
        GainCurve((GainPoint(5, 0.0), GainPoint(5, 1.0)))
