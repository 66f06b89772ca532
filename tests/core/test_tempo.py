"""Steady tempi beside trying everything, and what is written of them read back."""

import io
from contextlib import suppress
from itertools import pairwise
from pathlib import Path

import mido
import numpy as np
import pytest
import soundfile as sf
from hypothesis import example, given, settings
from hypothesis import strategies as st

from evenseam.cli.tempi import MapFiles, Wanted, laid_beside, write_click, write_midi
from evenseam.core.errors import BriefError, FileRefusedError, SpotError
from evenseam.core.exchange.marks import read_midi
from evenseam.core.exchange.tempi.click_wav import ClickStyle
from evenseam.core.exchange.tempi.click_wav import write_click as written_click
from evenseam.core.exchange.tempi.tempo_midi import write_beats_midi, write_tempo_midi
from evenseam.core.exchange.tempi.tempo_read import read_tempo_midi
from evenseam.core.tempo.steady import _MISSED, _OFF_A_SECOND, ANY_METERS, STEP_BPM, Struck, find_steady
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.timebase import FrameRate


def cost_of(hits: list[Struck], bpm: float, start: float, meter: int) -> float:
    total = 0.0
    for hit in hits:
        step = 60 / bpm * (meter if hit.on_downbeat else 1)
        away = (hit.at_s - start) % step
        off = min(away, step - away)
        total += _OFF_A_SECOND[hit.weight] * off + (_MISSED[hit.weight] if off > hit.tolerance_s + 1e-9 else 0.0)
    return total


@st.composite
def some_hits(draw: st.DrawFn) -> list[Struck]:
    at = draw(st.lists(st.floats(0.5, 40), min_size=1, max_size=4))
    weights = st.sampled_from(["must", "should", "nice"])
    return [Struck(t, draw(st.sampled_from([0.02, 0.08])), draw(weights), draw(st.booleans())) for t in at]


@settings(max_examples=25, deadline=None)
@given(some_hits(), st.floats(60, 150), st.integers(2, 4), st.sampled_from([None, 0.0, 0.7]))
def test_the_best_tempo_is_as_good_as_trying_every_one_from_every_start(
    hits: list[Struck], low: float, meter: int, starts_s: float | None
) -> None:
    best = find_steady(hits, low, low + 0.5, meter, starts_s)[0]
    assert best.cost == pytest.approx(cost_of(hits, best.bpm, best.starts_s, meter), abs=1e-6)
    tempi = np.round(np.arange(low, low + 0.5 + STEP_BPM / 2, STEP_BPM), 2)[::7]
    for bpm in tempi:
        starts = [starts_s] if starts_s is not None else np.linspace(0, meter * 60 / bpm, 60, endpoint=False)
        assert all(cost_of(hits, float(bpm), float(s), meter) >= best.cost - 1e-6 for s in starts)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([3, 4]))
@example(197, 3)  # two answers that are apart by 0.4 % of the one and by less of the other
def test_a_tempo_that_meets_everything_is_found_with_its_halves_as_one_answer(seed: int, meter: int) -> None:
    rng = np.random.default_rng(seed)
    bpm, start = round(float(rng.uniform(100, 120)), 2), float(rng.uniform(0, 2))
    bars = np.sort(rng.choice(40, 6, replace=False))
    hits = [Struck(start + int(b) * meter * 60 / bpm, 0.02, "must") for b in bars]
    found = find_steady(hits, 40, 220, meter)
    assert all(found[0].is_met)
    assert any(all(one.is_met) and any(abs(x / bpm - 1) < 0.004 for x in (one.bpm, *one.also_bpm)) for one in found)
    every = [bpm for one in found for bpm in (one.bpm, *one.also_bpm)]
    assert all(abs(a / b - 1) >= 0.004 for k, a in enumerate(every) for b in every[:k]), "each stands there once"


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([3, 4, 5]))
def test_of_any_metre_the_best_is_as_good_as_each_by_itself_and_a_tempo_stands_there_once(seed: int, meter: int) -> None:
    rng = np.random.default_rng(seed)
    bpm = float(rng.uniform(80, 140))
    hits = [Struck(0.5 + float(b) * meter * 60 / bpm, 0.02, "must") for b in np.sort(rng.choice(30, 5, replace=False))]
    found = find_steady(hits, 75, 145, None)
    best = min(find_steady(hits, 75, 145, each)[0].cost for each in ANY_METERS)
    assert found[0].cost == pytest.approx(best, abs=1e-8)
    assert all(found[0].is_met)
    costs = [round(one.cost, 8) for one in found]
    assert costs == sorted(costs)
    for one in found:
        assert one.cost == pytest.approx(cost_of(hits, one.bpm, one.starts_s, one.meter), abs=1e-6)
        assert sum(abs(one.bpm - other.bpm) < 0.004 * one.bpm for other in found) == 1


def test_a_must_goes_before_any_number_of_what_would_be_nice() -> None:
    hits = [Struck(10.0, 0.02, "must"), *(Struck(10.0 + 2.3 * k, 0.02, "nice") for k in range(1, 6))]
    best = find_steady(hits, 119, 121, 4, starts_s=0.0)[0]
    assert best.is_met[0]
    assert not all(best.is_met)


@pytest.mark.parametrize(("low", "high", "meter", "count"), [(100, 90, 4, 1), (5, 90, 4, 1), (90, 100, 0, 1), (90, 100, 4, 0)])
def test_what_makes_no_sense_is_refused(low: float, high: float, meter: int, count: int) -> None:
    with pytest.raises(BriefError):
        find_steady([Struck(1.0, 0.1)] * count, low, high, meter)


@settings(max_examples=30, deadline=None)
@given(
    st.floats(50, 200), st.integers(2, 7), st.one_of(st.just(0.0), st.floats(0.01, 12)), st.lists(st.floats(0, 120), max_size=5)
)
def test_a_tempo_map_has_its_bars_and_markers_where_they_belong(
    bpm: float, meter: int, starts_s: float, at: list[float]
) -> None:
    data = write_tempo_midi(TempoMap.steady(bpm, meter, starts_s), tuple((t, f"Hit {k}") for k, t in enumerate(at)))
    now, seconds_of_tempo = 0.0, []
    for message in mido.MidiFile(file=io.BytesIO(data)):
        now += message.time
        if message.type == "set_tempo":
            seconds_of_tempo.append((now, mido.tempo2bpm(message.tempo)))
    assert seconds_of_tempo[-1][0] == pytest.approx(starts_s, abs=2e-4)
    assert seconds_of_tempo[-1][1] == pytest.approx(bpm, rel=1e-4)
    if at:
        hits = read_midi(data, FrameRate(240)).hits
        assert sorted(h.at_frames for h in hits) == pytest.approx(sorted(round(t * 240) for t in at), abs=1)


def test_the_click_lies_on_the_beats_to_the_sample_and_the_map_beside_it(tmp_path) -> None:  # type: ignore[no-untyped-def]
    wanted = Wanted(("12.96,beat,2", "30.92", "66"), "25", 60, 180, 4, None, 3)
    best, aims = wanted.answers()[0], wanted.aims()
    write_click(tmp_path / "click.wav", best, aims)
    write_midi(tmp_path / "map.mid", best, aims)
    sound, rate = sf.read(tmp_path / "click.wav", dtype="float32")
    for beat in range(24):
        at = round((best.starts_s + beat * 60 / best.bpm) * rate)
        assert not sound[at - 200 : at].any()
        assert sound[at] > 0.3
        assert (sound[at] > 0.5) == (beat % 4 == 0), "beat one is louder"
    assert [h.at_frames for h in read_midi((tmp_path / "map.mid").read_bytes(), FrameRate(25)).hits] == [324, 773, 1650]


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.5, 1.0, 1.5, 2.0]), st.one_of(st.just(0.0), st.floats(0.001, 9)))
def test_beats_as_they_come_are_a_map_whose_beats_and_bars_lie_where_they_are(
    seed: int, quarters: float, lead_s: float
) -> None:
    rng = np.random.default_rng(seed)
    bars = rng.choice([4, 4, 4, 3, 2], 12).tolist()
    place = np.concatenate([np.arange(n) for n in bars]).astype(np.int16)[int(rng.integers(0, 3)) :]
    at_s = lead_s + np.concatenate([[0.0], np.cumsum(rng.uniform(0.25, 1.2, place.size - 1))])
    data = write_beats_midi(at_s, place, quarters, [(float(t), str(k)) for k, t in enumerate(at_s)])
    file = mido.MidiFile(file=io.BytesIO(data))
    now, tick, told, metres = 0.0, 0, {}, []
    for message in file.tracks[0]:
        tick += message.time
        if message.type == "time_signature":
            metres.append((tick, message.numerator * 4 * file.ticks_per_beat // message.denominator))
    for message in file:
        now += message.time
        if message.type == "marker":
            told[int(message.text)] = now
    assert np.abs(np.array([told[k] for k in range(at_s.size)]) - at_s).max() < 1e-4
    lines = {
        start + k * length
        for (start, length), (end, _) in pairwise([*metres, (tick + 1, 0)])
        for k in range(9999)
        if start + k * length < end
    }
    step = round(quarters * file.ticks_per_beat)
    first = metres[1][0] if lead_s > 0.0005 else 0
    assert {first + int(k) * step for k in np.flatnonzero(place == 0)} <= lines, "every bar begins on a bar line"
    notes = {m.denominator for m in file.tracks[0] if m.type == "time_signature" and m.numerator > 1}
    assert notes == {{0.5: 8, 1.0: 4, 1.5: 8, 2.0: 2}[quarters]}


@pytest.mark.parametrize(("starts_s", "early_s"), [(0.0, 3), (1.3, 2), (6.0, 0)])
def test_a_count_in_and_off_beats_lie_on_the_sample_however_early_the_file_has_to_start(
    tmp_path: Path, starts_s: float, early_s: int
) -> None:
    rate, bpm, meter = 48_000, 93.0, 4
    style = ClickStyle(count_in_bars=1, parts=2)
    assert written_click(tmp_path / "click.wav", bpm, meter, starts_s, 12.0, rate, style) == early_s
    sound, _ = sf.read(tmp_path / "click.wav", dtype="float32")
    assert sound.size == (12 + early_s) * rate
    for number in range(-8, 12):
        at = round((early_s + starts_s + number / 2 * 60 / bpm) * rate)
        loud = sound[at : at + 30].max()
        assert not sound[max(0, at - 200) : at].any()
        assert (loud > 0.5, loud > 0.3) == (number % 8 == 0, number % 2 == 0), "bars, beats and what lies between them differ"
    assert written_click(tmp_path / "plain.wav", bpm, meter, 0.0, 12.0, rate, ClickStyle(is_accented=False)) == 0
    plain, _ = sf.read(tmp_path / "plain.wav", dtype="float32")
    assert np.abs(plain).max() < 0.5


def midi_of(*events: tuple[int, mido.MetaMessage]) -> bytes:
    track, now = mido.MidiTrack(), 0
    for tick, message in events:
        track.append(message.copy(time=tick - now))
        now = tick
    out = io.BytesIO()
    mido.MidiFile(type=1, ticks_per_beat=480, tracks=[track]).save(file=out)
    return out.getvalue()


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.0, 0.4, 3.7]), st.sampled_from([1.0, 1.5]))
def test_a_map_that_was_written_is_read_back_beat_by_beat(seed: int, starts_s: float, quarters: float) -> None:
    rng = np.random.default_rng(seed)
    at_s = starts_s + np.concatenate([[0.0], np.cumsum(rng.uniform(0.3, 0.9, 60))])
    bars = rng.integers(2, 6, 30)
    in_bar = np.concatenate([np.arange(n) for n in bars])[:61].astype(np.int16)
    lead = 1 if starts_s else 0  # one short bar leads up
    read = read_tempo_midi(write_beats_midi(at_s, in_bar, quarters, [])).beats(float(at_s[-2]))
    n = min(read.at_s.size - lead, 60)
    assert n >= 59
    assert read.at_s[lead : lead + n] == pytest.approx(at_s[:n], abs=2e-6)
    assert read.bpm[lead : lead + n - 1] == pytest.approx(60 / np.diff(at_s)[: n - 1], rel=1e-4)
    if quarters == 1.0:
        assert np.array_equal(read.beat_in_bar[lead : lead + n], in_bar[:n])


def test_metres_that_change_and_a_bar_that_is_cut_short_are_counted_as_they_are_written() -> None:
    quarter = 480
    data = midi_of(
        (0, mido.MetaMessage("set_tempo", tempo=500_000)),
        (0, mido.MetaMessage("time_signature", numerator=4, denominator=4)),
        (6 * quarter, mido.MetaMessage("time_signature", numerator=6, denominator=8)),  # after a bar and a half
        (6 * quarter, mido.MetaMessage("set_tempo", tempo=1_000_000)),
        (12 * quarter, mido.MetaMessage("time_signature", numerator=3, denominator=4)),
    )
    read = read_tempo_midi(data).beats(14.0)
    assert read.at_s.tolist() == [0, 0.5, 1, 1.5, 2, 2.5, 3, 4.5, 6, 7.5, 9, 10, 11, 12, 13, 14]
    assert read.beat_in_bar.tolist() == [0, 1, 2, 3, 0, 1, 0, 1, 0, 1, 0, 1, 2, 0, 1, 2]
    assert read.bpm[[0, 6, 15]].tolist() == [120, 40, 60]
    hit = read.nearest(6.1, on_downbeat=True)
    assert (hit.bar, hit.beat, hit.off_s) == (4, 1, pytest.approx(-0.1))
    assert (read.nearest(10.4, on_downbeat=False).bar, read.nearest(10.4, on_downbeat=False).beat) == (5, 2)


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=200), st.booleans(), st.integers(0, 120), st.integers(0, 255))
def test_a_bad_map_is_refused_in_words(data: bytes, is_broken: bool, at: int, value: int) -> None:
    whole = bytearray(write_tempo_midi(TempoMap.steady(111.0, 4, 1.3), ((2.0, "door"),)))
    whole[min(at, len(whole) - 1)] = value
    with suppress(SpotError):
        read = read_tempo_midi(bytes(whole) if is_broken else data).beats(60.0)
        assert np.all(np.diff(read.at_s) > 0)


def test_a_map_is_laid_beside_the_hits_on_the_command_line(tmp_path: Path) -> None:
    file = tmp_path / "cue.mid"
    file.write_bytes(write_tempo_midi(TempoMap.steady(100.0, 4, 1.0), ()))
    wanted = Wanted(("1.0", "5.8", "8.3,beat"), "25", 60, 180, 4, None, 8)
    found, words = laid_beside(file, wanted, MapFiles(None, tmp_path / "click.wav", tmp_path / "bars.csv"))
    assert [(h["bar"], h["beat"], h["met"]) for h in found["hits"]] == [(1, 1, True), (3, 1, True), (4, 1, False)]
    assert found["hits"][2]["off_frames"] == pytest.approx(-2.5, abs=0.01)
    assert "met 2 of 3" in words
    sound, rate = sf.read(tmp_path / "click.wav")
    table = (tmp_path / "bars.csv").read_text().splitlines()
    assert table[1].startswith("1,00:00:01:00,25.000,1.000000,100.000")
    for bar in found["bars"]:
        at = round(bar["at_s"] * rate)
        assert np.abs(sound[at : at + 100]).max() > 0.5
    with pytest.raises(FileRefusedError, match="cannot be read"):
        laid_beside(tmp_path / "none.mid", wanted, MapFiles())
    bent, _ = laid_beside(file, wanted, MapFiles(tmp_path / "bent.mid"), bend_pct=5)
    assert all(hit["met"] for hit in bent["hits"])
    again, _ = laid_beside(tmp_path / "bent.mid", wanted, MapFiles())
    assert again["hits"] == bent["hits"], "what is written is what was said"


@pytest.mark.parametrize("starts_s", [0.0, 1e-6, 2e-4, 0.03, 7.77, 3000.0])
def test_a_steady_map_has_bar_one_where_it_is_asked_for(starts_s: float) -> None:
    beats = TempoMap.steady(98.7, 3, starts_s).beats(starts_s + 10)
    assert beats.at_s[:4] == pytest.approx(starts_s + np.arange(4) * 60 / 98.7, abs=1e-4 if starts_s < 1e-4 else 3e-6)
    assert beats.beat_in_bar[:4].tolist() == [0, 1, 2, 0]
