"""The command line hears a file once: what it heard is kept, within a limit, and the next fit of the file is the same."""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from evenseam.cli.hearing import HearingCache
from evenseam.core.audio.encode import write_wav
from evenseam.core.chart import CHART_VERSION
from evenseam.core.errors import AudioUnreadableError
from tests.conftest import drum_loop


def evenseam(*args: str, cache: Path, limit_mb: str = "100") -> subprocess.CompletedProcess[str]:
    env = {"XDG_CACHE_HOME": str(cache), "EVENSEAM_CACHE_MB": limit_mb, "PATH": ""}
    command = [sys.executable, "-m", "evenseam.cli", *args, "--json"]
    return subprocess.run(command, capture_output=True, text=True, check=False, env=env)


def kept_in(cache: Path) -> list[Path]:
    return sorted(cache.glob("*/charts-*/*"))


def test_the_second_fit_of_a_file_hears_nothing_and_is_what_the_first_one_was(tmp_path: Path, loop_wav: Path) -> None:
    """The first is planned by compiled kernels, the second by the same as plain Python."""
    fit = ("fit", str(loop_wav), "--to", "31.5")
    first, second = (json.loads(evenseam(*fit, cache=tmp_path).stdout)["fits"] for _ in range(2))
    assert first == second
    assert len(kept_in(tmp_path)) == 1
    heard = [json.loads(evenseam("listen", str(loop_wav), cache=tmp_path).stdout) for _ in range(2)]
    assert [one["was_kept"] for one in heard] == [True, True]
    anew = json.loads(evenseam("listen", str(loop_wav), "--uncached", cache=tmp_path).stdout)
    same = ("was_kept", "elapsed_s")
    assert not anew["was_kept"]
    assert {k: v for k, v in anew.items() if k not in same} == {k: v for k, v in heard[0].items() if k not in same}


@pytest.mark.parametrize(("limit", "code"), [("0", 0), ("1", 0), ("many", 2), ("-3", 2)])
def test_nothing_is_kept_where_it_is_switched_off_or_has_no_room(tmp_path: Path, loop_wav: Path, limit: str, code: int) -> None:
    done = evenseam("listen", str(loop_wav), cache=tmp_path, limit_mb=limit)
    assert done.returncode == code, done.stderr
    assert kept_in(tmp_path) == []
    assert len(done.stderr.splitlines()) == (1 if code else 0)


def files(folder: Path, count: int) -> list[Path]:
    paths = [folder / f"{k}.wav" for k in range(count)]
    for k, path in enumerate(paths):
        loop = drum_loop(12.0, bpm=100.0 + k)
        write_wav(path, loop.samples, loop.rate, "int16")
    return paths


def test_what_was_used_last_stays_and_what_is_damaged_or_of_another_version_goes(tmp_path: Path) -> None:
    one, two, three = files(tmp_path, 3)
    cache = HearingCache(tmp_path / "cache", 10_000_000)
    older = tmp_path / "cache" / f"charts-{CHART_VERSION - 1}" / "a"
    older.mkdir(parents=True)
    assert not cache.open(one).was_kept
    assert not older.parent.exists()
    (place,) = kept_in(tmp_path)
    tight = HearingCache(cache.folder, int(2.5 * sum(f.stat().st_size for f in place.iterdir())))
    assert not tight.open(two).was_kept
    assert tight.open(one).was_kept, "used again: now it is the newer one"
    assert not tight.open(three).was_kept
    assert tight.open(one).was_kept
    assert not tight.open(two).was_kept, "gone for the third, and heard anew"
    (place / "chart.npz").write_bytes(b"no chart")
    assert not cache.open(one).was_kept
    again = cache.open(one)
    assert again.was_kept
    assert np.array_equal(again.samples[:, :99], cache.open(one).samples[:, :99])
    with pytest.raises(AudioUnreadableError, match="not there"):
        cache.open(tmp_path / "none.wav")
