"""Films: what they are, their shot changes, copies to play, sound, and shots known again."""

from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile as sf

from evenseam.core.errors import FilmUnreadableError
from evenseam.core.exchange.marks import read_captions
from evenseam.core.picture import Scan, extract_sound, matched_shots, measure, scan
from evenseam.core.picture.cuts import find_cuts
from evenseam.core.picture.frames import frames_of
from evenseam.core.spot import Shot, edit
from evenseam.core.spot.speech import find_lines
from evenseam.core.timebase import FrameRate
from evenseam.demo.film.cuts import FILM, FILMS, RATE, RECUT, DemoFilm
from evenseam.demo.load import FILMS_FOLDER
from tests.films import SOUND_HZ, Shape, look, make_film

CUT = ((1, 0, 40), (2, 30, 25), (3, 0, 50))


def noise(n: int) -> np.ndarray:
    return np.random.default_rng(1).normal(0, 0.3, n).astype(np.float32)


def scanned(path: Path, copy: Path | None = None) -> Scan:
    return scan(path, measure(path), copy, lambda _: None)


@cache
def demo_scan(film: DemoFilm) -> Scan:
    """Made once for all that asks for it."""
    return scanned(demo_path(film))


def demo_path(film: DemoFilm) -> Path:
    return FILMS_FOLDER / f"{film.slug}.mp4"


@pytest.mark.parametrize(
    ("name", "shape", "rate", "start"),
    [
        ("a.mp4", Shape(), FrameRate(25), 0),
        ("a.mov", Shape(Fraction(30000, 1001), timecode="01:00:00;00"), FrameRate(30000, 1001, True), 107_892),
        ("a.mov", Shape(Fraction(24000, 1001), "prores_ks", "yuv422p10le"), FrameRate(24000, 1001), 0),
        ("a.mkv", Shape(Fraction(24000, 1001)), FrameRate(24000, 1001), 0),
        ("a.webm", Shape(Fraction(50), "libvpx-vp9"), FrameRate(50), 0),
        ("a.mp4", Shape(Fraction(60000, 1001), "libx265"), FrameRate(60000, 1001), 0),
        ("a.mov", Shape(Fraction(25), timecode="10:00:00:00"), FrameRate(25), 900_000),
    ],
)
def test_rate_length_and_timecode_are_exact(name: str, shape: Shape, rate: FrameRate, start: int, tmp_path: Path) -> None:
    make_film(tmp_path / name, CUT, shape)
    film = measure(tmp_path / name)
    assert (film.rate, film.length_frames, film.start_frames) == (rate, 115, start)
    assert not film.is_variable
    assert scanned(tmp_path / name).cuts == (40, 65)


def test_only_what_browsers_cannot_play_frame_by_frame_is_copied(tmp_path: Path) -> None:
    wanted = {
        "plain.mp4": (Shape(), False),
        "few keys.mp4": (Shape(key_every=250), True),
        "ten bits.mp4": (Shape(pixels="yuv420p10le"), True),
        "prores.mov": (Shape(codec="prores_ks", pixels="yuv422p10le"), True),
    }
    for name, (shape, needs_copy) in wanted.items():
        make_film(tmp_path / name, ((1, 0, 80),), shape)
        assert measure(tmp_path / name).needs_copy is needs_copy, name


def test_a_copy_shows_every_frame_where_the_film_shows_it(tmp_path: Path) -> None:
    make_film(tmp_path / "film.mov", CUT, Shape(Fraction(24000, 1001), "prores_ks", "yuv422p10le"))
    scanned(tmp_path / "film.mov", tmp_path / "copy.mp4")
    copy = measure(tmp_path / "copy.mp4")
    assert (copy.rate, copy.length_frames, copy.needs_copy) == (FrameRate(24000, 1001), 115, False)
    shown = [f.to_ndarray(format="rgb24").astype(int) for _, f in frames_of(tmp_path / "copy.mp4", copy)]
    made = [look(take, source + k).astype(int) for take, source, n in CUT for k in range(n)]
    for n in (0, 39, 40, 64, 65, 100, 114):
        away = [np.abs(shown[n] - made[m]).mean() for m in range(115)]
        assert int(np.argmin(away)) == n


def test_a_film_with_uneven_frames_is_laid_on_an_even_grid_and_that_is_told(tmp_path: Path) -> None:
    times = [k if k < 30 else k + 6 for k in range(80)]
    make_film(tmp_path / "phone.mp4", ((1, 0, 30), (2, 0, 50)), times=times)
    film = measure(tmp_path / "phone.mp4")
    assert film.is_variable
    assert film.needs_copy
    assert "not evenly spaced" in film.notes[0]
    assert film.length_frames == 86
    seen = scan(tmp_path / "phone.mp4", film, tmp_path / "copy.mp4", lambda _: None)
    assert seen.cuts == (36,)
    assert measure(tmp_path / "copy.mp4").length_frames == 86


def test_the_small_pictures_are_those_of_their_frames(tmp_path: Path) -> None:
    make_film(tmp_path / "film.mp4", CUT)
    thumbs = scanned(tmp_path / "film.mp4").thumbs
    (tmp_path / "thumbs.jpg").write_bytes(thumbs.jpeg)
    with av.open(str(tmp_path / "thumbs.jpg")) as sheet:
        image = next(sheet.decode(video=0)).to_ndarray(format="rgb24").astype(int)
    assert thumbs.count == -(-115 // thumbs.every_frames)
    for index in (0, 8, thumbs.count - 1):
        row, column = divmod(index, thumbs.per_row)
        top, left = row * thumbs.height_px, column * thumbs.width_px
        mean = image[top : top + thumbs.height_px, left : left + thumbs.width_px].mean(axis=(0, 1))
        at = index * thumbs.every_frames
        take = 1 if at < 40 else 2 if at < 65 else 3
        assert np.abs(mean - look(take, 0).mean(axis=(0, 1))).max() < 6


@pytest.mark.parametrize("late_s", [0.0, 0.5])
def test_the_sound_starts_with_the_first_frame(late_s: float, tmp_path: Path) -> None:
    make_film(tmp_path / "film.mov", ((1, 0, 50),), Shape(sound_codec="pcm_s16le", sound_late_s=late_s))
    assert extract_sound(tmp_path / "film.mov", tmp_path / "own.flac")
    sound, rate = sf.read(tmp_path / "own.flac")
    assert rate == SOUND_HZ
    assert int(np.flatnonzero(np.abs(sound) > 0.05)[0]) == pytest.approx(late_s * SOUND_HZ, abs=24)
    make_film(tmp_path / "mute.mp4", ((1, 0, 50),))
    assert not extract_sound(tmp_path / "mute.mp4", tmp_path / "none.flac")


@pytest.mark.parametrize("data", [b"", b"not a film", b"\x00\x00\x00\x20ftypisom" + b"\x00" * 200, noise(4000).tobytes()])
def test_what_is_no_film_is_refused_with_a_reason(data: bytes, tmp_path: Path) -> None:
    (tmp_path / "x.mp4").write_bytes(data)
    with pytest.raises(FilmUnreadableError, match="export it as MP4"):
        measure(tmp_path / "x.mp4")


def test_a_film_that_breaks_off_is_refused_or_read_as_far_as_it_goes(tmp_path: Path) -> None:
    make_film(tmp_path / "whole.mkv", CUT)
    data = (tmp_path / "whole.mkv").read_bytes()
    for share in (0.3, 0.6, 0.9):
        (tmp_path / "part.mkv").write_bytes(data[: int(len(data) * share)])
        try:
            film = measure(tmp_path / "part.mkv")
        except FilmUnreadableError:
            continue
        assert 0 < film.length_frames <= 115
        assert sum(1 for _ in frames_of(tmp_path / "part.mkv", film)) == film.length_frames


def test_cuts_stand_out_from_movement_and_a_flash_is_one() -> None:
    rng = np.random.default_rng(3)
    change = rng.uniform(0, 12, 300).astype(np.float32)  # a restless hand-held shot
    change[120] = 90
    change[[200, 201]] = 80, 75
    assert find_cuts(change) == (120, 200)
    assert find_cuts(np.zeros(50, dtype=np.float32)) == ()
    assert find_cuts(np.array([0, 80, 0], dtype=np.float32)) == (1,)


@pytest.mark.parametrize("film", FILMS, ids=lambda f: f.slug)
def test_every_shot_change_of_the_demo_films_is_found_and_no_other(film: DemoFilm) -> None:
    assert demo_scan(film).cuts == tuple(s.start_frames for s in film.sheet.shots[1:])
    assert measure(demo_path(film)).start_frames == film.start_frames


def test_the_shots_of_a_recut_are_known_again_by_how_they_look() -> None:
    old, new = demo_scan(FILM), demo_scan(RECUT)
    strangers = tuple(replace(s, reel="new", source_start_frames=s.start_frames) for s in RECUT.sheet.shots)
    found = matched_shots(FILM.sheet.shots, old.likeness, strangers, new.likeness)
    for shot, truth in zip(found, RECUT.sheet.shots, strict=True):
        assert shot.reel == truth.reel
        assert abs(shot.source_start_frames - truth.source_start_frames) <= 1
    nothing = matched_shots(FILM.sheet.shots, old.likeness, (Shot(0, 9, "x", 5),), np.full((9, 9, 16), 250, np.uint8))
    assert nothing == (Shot(0, 9, "x", 5),)


def test_the_lines_of_the_demo_film_are_found_in_its_own_sound(tmp_path: Path) -> None:
    extract_sound(demo_path(FILM), tmp_path / "own.flac")
    sound, rate = sf.read(tmp_path / "own.flac", dtype="float32", always_2d=True)
    truth = read_captions((FILMS_FOLDER / "open_night.srt").read_text(), RATE).lines
    found = find_lines(sound.T, rate, RATE, 1800)
    assert len(found) == len(truth)
    for line, true in zip(found, truth, strict=True):
        assert abs(line.start_frames - true.start_frames) <= 3
        assert abs(line.end_frames - true.end_frames) <= 5
    later = find_lines(sound.T[:, : 12 * rate], rate, RATE, 1800, at_frames=500)
    assert [x.start_frames - 500 for x in later] == [x.start_frames for x in found[:2]]
    quiet = noise(5 * rate)[None, :] * np.float32(0.01)
    assert find_lines(quiet, rate, RATE, 1800) == ()


def test_accepted_cuts_make_shots_that_cover_the_film() -> None:
    sheet = replace(FILM.sheet, shots=(), suggested_cuts=(10, 20, 30))
    some = edit.accept_cuts(sheet, (20, 99))
    assert [(s.start_frames, s.end_frames, s.source_start_frames) for s in some.shots] == [(0, 20, 0), (20, 1800, 20)]
    assert some.suggested_cuts == (10, 30)
    joined = edit.join_shots(edit.accept_cuts(edit.drop_cuts(some, (30,)), (10,)), 20)
    assert [(s.start_frames, s.end_frames) for s in joined.shots] == [(0, 10), (10, 1800)]
    assert edit.cut_at(joined, 400).shots[-1].start_frames == 400
