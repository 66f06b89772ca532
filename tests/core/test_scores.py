"""The demo music: what ships is what the scores say."""

import numpy as np
import pytest

from evenseam.core.errors import EvenSeamError, NoPlanError
from evenseam.demo.scores import SCORES
from evenseam.demo.scores.score import bass, chord, root
from evenseam.demo.sung import sing
from tests.conftest import ALL_SCORES, HeardTrack, music_file

MOST_BYTES = 4_000_000


def test_the_recording_is_as_long_as_its_score(track: HeardTrack) -> None:
    last_note_s = max(track.score.second(n.beat + n.length) for p in track.score.parts for n in p.notes)
    assert track.audio.n_samples / track.audio.rate == pytest.approx(last_note_s + track.score.ring_s, abs=0.1)


def test_files_are_small_and_of_different_length_metre_and_style() -> None:
    assert all(music_file(s).stat().st_size < MOST_BYTES for s in ALL_SCORES.values())
    assert {s.meter for s in SCORES if not s.is_free} == {"3/4", "4/4", "5/4", "6/8"}
    assert len({s.style for s in SCORES}) == len(SCORES) >= 12
    assert len({s.tempo_bpm for s in SCORES if not s.is_free}) >= 10


def test_truth_lies_on_the_notes() -> None:
    for score in (s for s in ALL_SCORES.values() if not s.is_free and not s.count_in_bars):
        beats = score.beats_s()
        assert len(beats) == score.bars * score.beats_per_bar
        starts = {round(score.second(n.beat), 6) for p in score.parts for n in p.notes}
        assert sum(round(d, 6) in starts for d in score.downbeats_s()) == score.bars


@pytest.mark.parametrize(("name", "pitches"), [("C", [60, 64, 67]), ("F#m", [61, 66, 69]), ("Bb6", [62, 65, 67, 70])])
def test_chords(name: str, pitches: list[int]) -> None:
    assert chord(name, 60) == pitches
    assert bass(name) % 12 == root(name)


def test_errors_cross_process_borders_whole() -> None:
    import pickle

    error = NoPlanError("Not this long.", possible_samples=[5])
    back = pickle.loads(pickle.dumps(error))
    assert isinstance(back, EvenSeamError)
    assert (back.code, back.detail, back.params) == ("no_plan", "Not this long.", {"possible_samples": [5]})


def test_the_singer_sings_the_notes_the_same_at_every_run() -> None:
    notes = [(0.1, 0.9, 220.0), (1.0, 1.8, 330.0)]
    one, two = (sing(notes, 44_100 * 2, 44_100) for _ in range(2))
    assert np.array_equal(one, two)
    assert np.abs(one).max() == pytest.approx(1.0)
    assert not one[: round(0.1 * 44_100)].any()
    for on, off, pitch in notes:
        spectrum = np.abs(np.fft.rfft(one[round((on + 0.2) * 44_100) : round(off * 44_100)]))
        hz = np.fft.rfftfreq(round(off * 44_100) - round((on + 0.2) * 44_100), 1 / 44_100)
        strongest = hz[spectrum.argmax()]
        assert strongest / pitch == pytest.approx(round(strongest / pitch), abs=0.05)
