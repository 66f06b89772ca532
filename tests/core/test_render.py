"""Rendering: exact lengths, any stretch the same however asked for, speed changed without a join or a click out of place."""

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import soundfile as sf
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from evenseam.core.audio.encode import WavWriter
from evenseam.core.plan import Brief, Fade, Passage, Pin, Plan, Rest, Seam
from evenseam.core.render import Preview, Renderer, Shelf, render_blocks
from evenseam.core.render.crossfade import LEAST_CORRELATION, crossfade_gains
from evenseam.core.render.gains import with_silence
from evenseam.core.render.runs import runs_of
from evenseam.core.render.struck import Places, Source, clear_attacks
from evenseam.core.timebase import Knot, TimeMap
from tests.conftest import HeardTrack, heard

RATE = 22_050
PARTIALS_HZ = (196.0, 246.94, 293.66, 392.0, 493.88, 587.33)


def one_passage(n_source: int, n_out: int, **more: object) -> Plan:
    return Plan("rearrange", RATE, n_out, (Passage((Pin(0, 0), Pin(n_source, n_out))),), (), 0.0, **more)


def whole(plan: Plan, samples: np.ndarray) -> np.ndarray:
    return np.concatenate(list(render_blocks(plan, samples)), axis=1)


def at_speeds(*speeds: float, seconds: float = 6.0) -> Plan:
    """A passage of several speeds from the track's start, the same time at each."""
    pins = [Pin(0, 0)]
    for speed in speeds:
        n_out = round(seconds * RATE)
        pins.append(Pin(pins[-1].source_samples + round(n_out * speed), pins[-1].out_samples + n_out))
    return Plan("bend", RATE, pins[-1].out_samples, (Passage(tuple(pins)),), (), 0.0)


def chord(seconds: float) -> np.ndarray:
    t = np.arange(round(seconds * RATE)) / RATE
    sides = [sum(np.sin(2 * np.pi * f * t + (1 + side) * k) for k, f in enumerate(PARTIALS_HZ)) for side in (0, 1)]
    return (0.1 * np.stack(sides)).astype(np.float32)


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


@settings(deadline=None, max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_any_block_of_a_print_is_the_same_in_whatever_order_it_is_asked_for(data: st.DataObject) -> None:
    plan, samples, printed = mixed_plan()
    renderer = Renderer(plan, samples)
    for _ in range(3):
        start = data.draw(st.integers(-100, plan.target_samples))
        stop = start + data.draw(st.integers(1, 3 * RATE))
        around = np.pad(printed, ((0, 0), (100, 4 * RATE)))
        assert np.array_equal(renderer.block(start, stop), around[:, start + 100 : stop + 100])


def mixed_plan() -> tuple[Plan, np.ndarray, np.ndarray]:
    """Copied, resampled and swept passages, seams between them and a rest, of a track with attacks all over."""
    if not _mixed:
        samples = np.concatenate([chord(20.0), chord(20.0)[:, ::-1]], axis=1)
        samples[:, ::5513] += np.float32(0.5)
        pieces, at = [], 0
        for source, n_source, speed in (
            (0, 60_000, 1.0),
            (100_000, 70_000, 1.02),
            (300_000, 66_150, 1.02),
            (9_000, 50_000, 1.002),
        ):
            n_out = round(n_source / speed)
            pieces.append(Passage((Pin(source, at), Pin(source + n_source, at + n_out))))
            at += n_out
        rest = Rest(at, at + 11_025, Fade(300, "cosine"), Fade(100))
        pieces.append(Passage((Pin(200_000, rest.out_out_samples), Pin(230_000, rest.out_out_samples + 30_000))))
        seams = tuple(
            Seam(b.out_in_samples, a.source_out_samples, b.source_in_samples, 440, 0.1, 60.0, "even", False)
            for a, b in pairwise(pieces[:4])
        )
        plan = Plan(
            "rearrange", RATE, pieces[-1].out_out_samples, tuple(pieces), seams, 0.0, rests=(rest,),
            fade_in=Fade(200), fade_out=Fade(2000, "cosine"), gain_db=-3.0,
        )  # fmt: skip
        _mixed.append((plan, samples, whole(plan, samples)))
    return _mixed[0]


_mixed: list[tuple[Plan, np.ndarray, np.ndarray]] = []


def test_a_plan_is_played_in_as_few_runs_as_its_speeds_allow() -> None:
    plan, _, printed = mixed_plan()
    runs = runs_of(plan)
    assert [(r.way, len(r.passages)) for r in runs] == [("copy", 1), ("sweep", 2), ("varispeed", 1), ("copy", 1)]
    rest = plan.rests[0]
    assert not printed[:, rest.out_in_samples : rest.out_out_samples].any()
    assert printed[:, rest.out_out_samples + 100 :].any()


def test_unstretched_passages_are_the_track_bit_for_bit() -> None:
    source = np.random.default_rng(1).uniform(-1, 1, (2, RATE)).astype(np.float32)
    assert np.array_equal(whole(one_passage(RATE, RATE), source), source)


@pytest.mark.parametrize("speeds", [(0.96,), (1.004,), (1.04,), (1.0, 1.03, 0.98, 1.0), (0.999,), (1.002, 0.998)])
def test_a_changed_speed_leaves_nothing_beside_the_partials_and_no_step_of_level(speeds: tuple[float, ...]) -> None:
    source = chord(30.0)
    plan = at_speeds(*speeds)
    sound = whole(plan, source)
    is_resampled = runs_of(plan)[0].way == "varispeed"
    n, levels = round(0.17 * RATE), []
    for start in range(RATE // 2, sound.shape[1] - RATE // 2 - n, n // 2):
        speed = speeds[start * len(speeds) // sound.shape[1]]
        if speeds[(start + n) * len(speeds) // sound.shape[1]] != speed and is_resampled:
            continue
        t = np.arange(start, start + n) / RATE * (speed if is_resampled else 1.0)
        basis = np.stack([wave(2 * np.pi * f * t) for f in PARTIALS_HZ for wave in (np.cos, np.sin)], axis=1)
        given = sound[:, start : start + n].astype(np.float64)
        rest = given - (basis @ np.linalg.lstsq(basis, given.T, rcond=None)[0]).T
        assert 10 * np.log10(np.square(rest).sum() / np.square(given).sum()) < -45
        levels.append(10 * np.log10(np.square(given).mean()))
    assert np.ptp(levels) < 0.5


@pytest.mark.parametrize("speeds", [(0.95,), (1.001,), (1.015,), (1.06,), (1.0, 1.04, 0.97)])
def test_what_is_struck_lies_where_the_pins_say_and_nothing_sounds_before_it(speeds: tuple[float, ...]) -> None:
    source = np.zeros((2, 20 * RATE), dtype=np.float32)
    burst = np.random.default_rng(3).normal(0, 0.3, 110) * np.exp(-np.arange(110) / 30)
    at = np.arange(RATE, 19 * RATE, RATE // 2) + np.random.default_rng(4).integers(-3000, 3000, 36)
    for a in at:
        source[:, a : a + 110] += burst.astype(np.float32)
    plan = at_speeds(*speeds, seconds=15.0 / len(speeds))
    sound = whole(plan, source)
    time_map = plan.passages[0].time_map()
    for place in time_map.out_at(at[at < plan.passages[0].source_out_samples - RATE]):
        near = sound[0, round(place) - 220 : round(place) + 330]
        away = int(np.correlate(near, burst, "valid").argmax()) - 220 + round(place) - place
        assert abs(away) < 0.001 * RATE
        assert np.square(near[:200]).sum() < 1e-4 * np.square(near).sum()


def test_both_channels_are_turned_alike() -> None:
    source = chord(20.0)
    plan = at_speeds(1.03)
    sound = whole(plan, source)
    side = [np.square(x[0] - x[1]).sum() / np.square(x).sum() for x in (sound[:, RATE:-RATE], source[:, RATE : 7 * RATE])]
    assert abs(10 * np.log10(side[0] / side[1])) < 0.2


def test_equal_sound_on_both_sides_of_a_seam_is_heard_unchanged_at_any_speed() -> None:
    """The seam is made before the speed is changed: what was even stays even."""
    source, period = chord(20.0), 4 * RATE
    source[:, period:] = source[:, : source.shape[1] - period]
    for n_out in (RATE, round(RATE / 1.03)):
        first, second = (
            Passage((Pin(0, 0), Pin(RATE, n_out))),
            Passage((Pin(RATE + period, n_out), Pin(2 * RATE + period, 2 * n_out))),
        )
        seam = Seam(n_out, RATE, RATE + period, 400, 1.0, 100.0, "even", False)
        joined = whole(Plan("rearrange", RATE, 2 * n_out, (first, second), (seam,), 0.0), source)
        straight = whole(one_passage(2 * RATE, 2 * n_out), source)
        np.testing.assert_allclose(joined, straight, rtol=0, atol=2e-4)


@given(st.integers(1, 500), st.floats(-1, 1))
def test_crossfades_keep_power_for_any_correlation(n: int, correlation: float) -> None:
    outgoing, incoming = crossfade_gains(n, correlation)
    power = outgoing**2 + incoming**2 + 2 * max(LEAST_CORRELATION, correlation) * outgoing * incoming
    np.testing.assert_allclose(power, 1, rtol=1e-5, atol=0)
    np.testing.assert_allclose(outgoing, incoming[::-1], rtol=1e-5, atol=1e-7)


def preview_of(plan: Plan, samples: np.ndarray, rate: int | None = None) -> Preview:
    return Preview(plan, samples, "a track", Shelf(lambda channels, n: np.zeros((channels, n), dtype=np.float32)), rate)


def test_a_draft_is_heard_at_once_in_the_prints_timing_until_the_print_is_made() -> None:
    track = heard("hill_bus")
    rate = track.audio.rate
    plans = (track.planner.plan(Brief(seconds * rate)) for seconds in range(61, 80))
    plan = next(p for p in plans if runs_of(p)[0].way == "sweep")
    printed = whole(plan, track.audio.samples)
    preview = preview_of(plan, track.audio.samples)
    start, stop = 40 * rate, 44 * rate
    draft, is_print = preview.block(start, stop)
    assert not is_print
    attacks = [clear_attacks(x[:, start:stop] if x is printed else x, rate, 1.0) for x in (printed, draft)]
    common = [np.abs(attacks[1] - a).min() for a in attacks[0]]
    assert len(common) > 3
    assert np.median(common) <= rate // 1000
    at_start, is_print = preview.block(0, rate)
    assert is_print
    assert np.array_equal(at_start, printed[:, :rate])
    while preview.make_more():
        pass
    sound, is_print = preview.block(start, stop)
    assert is_print
    assert np.array_equal(sound, printed[:, start:stop])
    joined, _ = preview.block(start, stop, after_draft=True)
    fade = round(0.024 * rate)
    assert np.array_equal(joined[:, fade:], sound[:, fade:])
    np.testing.assert_allclose(joined[:, 0], draft[:, 0], rtol=0, atol=0.02)


def test_a_draft_looks_where_the_print_looks_to_the_sample() -> None:
    """Places of frames are the same whatever was asked for before, and attacks are the same wherever they are looked for."""
    audio = heard("hill_bus").audio
    n, n_out = audio.n_samples, round(audio.n_samples / 1.021)
    time_map = TimeMap((Knot(0, 0), Knot(n_out // 2, n // 2 + 3000), Knot(n_out, n)))

    def places() -> Places:
        return Places(Source(lambda a, b: with_silence(audio.samples, a, b), 2, audio.rate), time_map, 4096)

    frames = np.arange(0, n_out // 1024) * 1024
    whole_way = places()
    printed = np.concatenate([whole_way.under(frames[k : k + 48])[0] for k in range(0, frames.size, 48)])
    for start in np.random.default_rng(3).integers(0, frames.size - 48, 12).tolist():
        assert np.array_equal(places().under(frames[start : start + 48])[0], printed[start : start + 48])


def test_what_has_no_room_to_be_kept_is_still_heard() -> None:
    plan, samples, _ = mixed_plan()

    def no_room(_channels: int, _n: int) -> np.ndarray:
        raise OSError("disk full")

    preview = Preview(plan, samples, "a track", Shelf(no_room))
    sound, is_print = preview.block(3 * RATE, 5 * RATE)
    assert not is_print
    assert sound.any()
    assert not preview.make_more()
