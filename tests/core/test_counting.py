"""From beats as decoded to beats as counted: a pulse that is held on to, and the right ones of the half beats."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.beats.counting import Counted, choose_grid, count_along
from evenseam.core.listen.beats.ear import METERS, Hearing
from evenseam.core.listen.beats.halves import GROUPS, LAGS, N_FEATURES, half_beat_features, half_beat_hops
from evenseam.core.listen.beats.pulse import has_slipped, held_to, steady_pulse
from evenseam.core.listen.beats.sureness import PULSE_FROM, SIGNS, Sureness
from evenseam.core.listen.beats.tracking import decode_beats
from evenseam.core.listen.features.spectra import Spectra

HOPS_PER_S = 22_050 / 220


def hearing(beat_hops: np.ndarray, n_hops: int, sure: float = 0.9) -> Hearing:
    """An ear that hears beats at these hops and nothing else."""
    steps = np.zeros(n_hops // 2, np.float32)
    at = np.rint(beat_hops / 2).astype(int)
    steps[at[at < steps.size]] = sure
    none = np.zeros_like(steps)
    return Hearing(steps, none, none, none, none, np.full((steps.size, len(METERS)), 1 / 6, np.float32))


def said(kinds: np.ndarray) -> Counted:
    """A count that says this of the half beats and nothing of the metre."""
    return Counted(kinds.astype(np.float32), np.log(np.full(len(METERS), 1 / len(METERS), np.float32)))


@settings(max_examples=20, deadline=None)
@given(
    period=st.floats(33.0, 75.0),
    by=st.sampled_from([1 / 3, 1 / 2, 2 / 3]),
    first=st.integers(12, 60),
    n=st.integers(10, 40),
)
def test_beats_that_go_over_to_a_part_of_the_beat_and_back_are_held_to_the_pulse(
    period: float, by: float, first: int, n: int
) -> None:
    """What is heard between the beats for a stretch is shorter than what is heard on them: the pulse goes through."""
    on = 5 + np.arange(200) * period
    played = on.copy()
    played[first : first + n] += by * period
    found = decode_beats(hearing(played, int(on[-1] + 2 * period)), HOPS_PER_S, 5.0)
    assert found is not None
    away = [float(np.abs(found - hop).min()) for hop in on[2:-2]]
    # Half tempo or double are the count's to put right; between the beats is not.
    doubled = np.sort(np.concatenate([on, on[:-1] + period / 2]))
    stray = [hop for hop in found[3:-3] if np.abs(doubled - hop).min() > 0.13 * period + 1]
    assert not stray
    assert np.mean(np.array(away) < 0.13 * period + 1) > 0.45


def test_music_that_drifts_or_stops_has_no_one_pulse() -> None:
    period = 50 * np.exp(np.linspace(0, 0.3, 160))
    at = np.rint(np.cumsum(period)).astype(np.int64)
    worth = np.full(int(at[-1]) + 100, -4.0)
    worth[at] = 4.0
    assert steady_pulse(worth, at) is None
    assert steady_pulse(worth, at[:40]) is None


def test_a_slowing_down_at_the_end_is_not_held_to_the_pulse() -> None:
    steady, slowing = np.full(120, 50.0), 50 * np.linspace(1.05, 1.6, 10)
    at = np.rint(5 + np.cumsum(np.concatenate([steady, slowing]))).astype(np.int64)
    worth = np.full(int(at[-1]) + 100, -4.0)
    worth[at] = 4.0
    pulse = steady_pulse(worth, at)
    assert pulse is not None
    assert pulse.period == pytest.approx(50.0, abs=0.05)
    assert pulse.end < at[-8]
    assert not has_slipped(pulse, at)
    held = held_to(pulse, worth)
    assert np.array_equal(held[at], worth[at])
    assert held.sum() < worth.sum()


@settings(max_examples=60, deadline=None)
@given(step=st.sampled_from([1, 2, 3, 4, 6]), data=st.data(), sure=st.floats(0.85, 0.98))
def test_the_beats_are_the_half_beats_that_are_counted(step: int, data: st.DataObject, sure: float) -> None:
    first = data.draw(st.integers(0, step - 1))
    tempo_bpm = data.draw(st.floats(95, 140))
    halves = np.rint(20 + np.arange(200) * 60 * HOPS_PER_S / tempo_bpm / step).astype(np.int64)
    on = np.arange(200) % step == first
    counted = np.log(
        np.where(on[:, None], [1 - sure, 0.75 * sure, 0.25 * sure], [sure, 0.75 - 0.75 * sure, 0.25 - 0.25 * sure])
    )
    grid = choose_grid(said(counted), halves, HOPS_PER_S, -1000.0)
    assert (grid.step, grid.first) == (step, first)
    assert np.array_equal(np.flatnonzero(on), np.arange(200)[grid.halves])
    assert grid.clear > 0.2


@given(n_beats=st.integers(2, 9), seed=st.integers(0, 999))
def test_few_beats_are_never_counted_away(n_beats: int, seed: int) -> None:
    halves = half_beat_hops(np.arange(n_beats) * 60)
    shares = np.random.default_rng(seed).dirichlet([0.3, 0.3, 0.3], halves.size) + 1e-6
    grid = choose_grid(said(np.log(shares)), halves, HOPS_PER_S, 0.0)
    assert halves[grid.halves].size >= min(4, n_beats - 1)


def test_what_could_be_either_is_not_called_clear() -> None:
    halves = np.arange(0, 10_000, 25)
    even = np.log(np.full((halves.size, 3), 1 / 3, np.float32))
    assert choose_grid(said(even), halves, HOPS_PER_S, -1000.0).clear < 0.1


@given(on=st.floats(0.05, 0.95))
def test_half_and_double_tempo_are_told_of_by_how_much_speaks_for_them(on: float) -> None:
    """Every half beat could be a beat by as much: the surer they are, the more is twice the tempo the other one."""
    halves = np.arange(0, 20_000, 60)  # 100 half beats a minute
    kinds = np.tile([1 - on, on, 1e-4], (halves.size, 1))
    kinds[::2] = [0.02, 0.98, 1e-4]
    grid = choose_grid(said(np.log(kinds)), halves, HOPS_PER_S, -1000.0)
    assert grid.step in (1, 2)
    assert grid.times == (0.5 if grid.step == 1 else 2.0)
    assert 0.5 <= grid.share < 1


def sure_of(signs: dict[str, float]) -> Sureness:
    return Sureness.of(np.array([signs.get(name, 0.0) for name in SIGNS]))


@given(st.fixed_dictionaries({name: st.floats(-4, 8) for name in SIGNS}))
def test_a_chart_is_never_surer_of_its_bars_than_of_its_beats_nor_of_those_than_of_a_pulse(signs: dict[str, float]) -> None:
    sure = sure_of(signs)
    assert 0 <= sure.bar <= sure.beat <= sure.pulse <= 1
    assert sure.is_free_time == (sure.pulse < PULSE_FROM)


def test_clear_beats_make_a_chart_surer_and_none_make_free_time() -> None:
    clear = {
        "heard": 2.0,
        "beats apart": 6.0,
        "grid": 3.5,
        "bars apart": 4.0,
        "odds apart": 5.0,
        "ear apart": 3.0,
    }
    assert sure_of(clear).bar > 0.8
    assert sure_of({**clear, "bars apart": 0.2, "odds apart": 0.3, "ear apart": 0.1}).bar < sure_of(clear).bar - 0.1
    assert sure_of({"heard": -3.5, "beats apart": 0.1}).is_free_time


def test_half_beats_are_described_alike_wherever_they_repeat() -> None:
    """Two bars of noise over and over: as unlike themselves as can be everywhere but two bars ago."""
    rng = np.random.default_rng(3)
    bars, hops_per_half, halves_per_turn = 12, 24, 16
    n = bars * halves_per_turn * hops_per_half
    bands = np.tile(rng.uniform(0, 4, (halves_per_turn * hops_per_half, 48)), (bars, 1)).astype(np.float32)
    tones = np.tile(rng.uniform(0, 3, (halves_per_turn * hops_per_half // 4, N_TONES)), (bars, 1)).astype(np.float32)
    spec = Spectra(bands, bands[:, :12], bands[:, 0], tones, Fraction(220))
    beats = np.arange(0, n - 2 * hops_per_half, 2 * hops_per_half)
    halves = half_beat_hops(beats)
    assert np.array_equal(halves[::2], beats)
    assert np.all(np.diff(halves) == hops_per_half)
    described = half_beat_features(spec, hearing(beats, n), halves, HOPS_PER_S)
    assert described.shape == (halves.size, N_FEATURES)
    assert np.isfinite(described).all()
    again = LAGS.index(halves_per_turn)
    for what in ("unlike tones", "unlike bands"):
        lags = described[halves_per_turn + 2 : -1, GROUPS[what]]
        # Repeats are alike to the last digit, which the description gives as less than anything else.
        assert np.all(lags[:, again] <= lags.min(axis=1) + 1e-6)
    counted = count_along(described)
    assert counted.kinds.shape == (halves.size, 3)
    assert np.exp(counted.kinds).sum(axis=1) == pytest.approx(1.0, abs=1e-5)
