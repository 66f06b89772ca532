"""The command line, as its users call it: JSON contract, exit codes, files."""

import io
import json
import os
import signal
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest.mock import patch

import pytest
import soundfile as sf

from evenseam.cli.commands import main

Done = subprocess.CompletedProcess[str]


def evenseam(*args: str) -> Done:
    """What the command prints and returns, run from its entry point in this process: to start one takes longer than most do."""
    out, err, code = io.StringIO(), io.StringIO(), 0
    with patch.object(sys, "argv", ["evenseam", *args]), redirect_stdout(out), redirect_stderr(err):
        try:
            main()
        except SystemExit as ended:
            code = int(ended.code or 0)
    return Done(args, code, out.getvalue(), err.getvalue())


def evenseam_alone(*args: str) -> Done:
    """The same in a process of its own."""
    return subprocess.run([sys.executable, "-m", "evenseam.cli", *args], capture_output=True, text=True, check=False)


def test_listen_prints_the_contract(loop_wav: Path) -> None:
    done = evenseam_alone("listen", str(loop_wav), "--json")
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    assert report["meter"] == [4, 4]
    assert report["tempo_bpm"] == pytest.approx(120, rel=0.01)
    assert {"beat", "tempo", "meter", "bar"} == set(report["confidence"])
    assert {"head_s", "tail_s"} == set(report["silence"])
    assert report["beats"]
    assert report["downbeats"]
    assert report["sections"][0].keys() >= {"start_s", "end_s", "label"}
    assert report["last_hit_s"] < report["ring_out_end_s"] <= report["duration_s"]
    assert {"key", "loudness_lufs", "loops", "elapsed_s", "sample_rate"} <= set(report)


def test_a_map_is_bent_to_hits_and_a_track_follows_it(loop_wav: Path, tmp_path: Path) -> None:
    found, bent = tmp_path / "found.mid", tmp_path / "bent.mid"
    done = evenseam(
        "tempo",
        "--hit",
        "8.1",
        "--hit",
        "16.3",
        "--starts",
        "0",
        "--low",
        "118",
        "--high",
        "122",
        "--midi",
        str(found),
        "--json",
    )
    assert done.returncode == 0, done.stderr
    told = evenseam("tempo", "--hit", "8.2", "--hit", "16.1", "--map", str(found), "--bend", "5", "--midi", str(bent), "--json")
    laid = json.loads(told.stdout)
    assert all(hit["met"] for hit in laid["hits"])
    fit = evenseam("fit", str(loop_wav), "--to", "20", "--hit", "8.2", "--hit", "16.1", "--follow", str(bent), "--json")
    report = json.loads(fit.stdout)["fits"][0]
    assert (report["method"], report["seams"], [h["kept"] for h in report["hits"]]) == ("bend", [], [True, True])
    missing = evenseam("fit", str(loop_wav), "--to", "20", "--follow", "none.mid")
    assert (missing.returncode, missing.stdout) == (2, "")


@pytest.mark.parametrize(
    ("to", "extra", "samples"), [("0:25", [], 25 * 22_050), ("00:01:00:12", ["--fps", "25"], 60 * 22_050 + 10_584)]
)
def test_fit_prints_the_contract_and_writes_the_file(
    loop_wav: Path, tmp_path: Path, to: str, extra: list[str], samples: int
) -> None:
    out = tmp_path / "fit.wav"
    done = evenseam("fit", str(loop_wav), "--to", to, *extra, "--alternates", "2", "--json", "--out", str(out))
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    first = report["fits"][0]
    assert first["length_samples"] == first["target_samples"] == samples
    assert sf.info(out).frames == samples
    assert first["passages"][0]["anchors"][0][1] == 0
    assert first["seams"][0].keys() >= {"out_s", "source_from_s", "source_to_s", "grade", "percentile", "short_bar"}
    assert report["elapsed_ms"] > 0


def test_fit_meets_hits_on_the_frame_and_respects_what_is_marked(loop_wav: Path) -> None:
    hits = ["--hit", "00:00:10:12", "--hit", "17.2,beat,2", "--hit", "22.6,last-hit"]
    done = evenseam("fit", str(loop_wav), "--to", "25", "--fps", "25", *hits, "--skip", "6-10", "--json")
    assert done.returncode == 0, done.stderr
    fit = json.loads(done.stdout)["fits"][0]
    assert [(h["kind"], h["asked_s"], h["kept"]) for h in fit["hits"]] == [
        ("downbeat", 10.48, True), ("beat", 17.2, True), ("last_hit", 22.6, True),
    ]  # fmt: skip
    assert [abs(h["error_frames"]) <= most for h, most in zip(fit["hits"], (0.5, 2, 0.5), strict=True)] == [True] * 3
    assert fit["landing"]["kind"] == "last_hit"
    assert all(p["source_out_s"] <= 6.05 or p["source_in_s"] >= 9.95 - 0.2 for p in fit["passages"])
    said = evenseam("fit", str(loop_wav), "--to", "25", "--hit", "10").stdout
    assert "downbeat at 10.000 s: met" in said


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["--to", "30", "--hit", "12,wish"], "is no hit"),
        (["--to", "30", "--hit", "31"], "after the end"),
        (["--to", "30", "--keep", "12"], "is no stretch"),
        (["--to", "2"], "too short to rearrange"),
        (["--to", "soon"], "is not a time"),
        (["--to", "00:00:30:00"], "picture rate"),
        (["--to", "30", "--method", "wish"], "Method cannot be 'wish'; use blend"),
        (["--to", "30", "--give", "90"], "Give must be"),
    ],
)
def test_refusals_are_one_line_and_exit_code_2(loop_wav: Path, args: list[str], words: str) -> None:
    done = evenseam("fit", str(loop_wav), *args)
    assert done.returncode == 2
    assert words in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_a_file_that_cannot_be_written_leaves_nothing(loop_wav: Path, tmp_path: Path) -> None:
    done = evenseam("fit", str(loop_wav), "--to", "25", "--out", str(tmp_path / "no" / "such" / "a.wav"))
    assert done.returncode == 2
    assert "cannot be written" in done.stderr


def test_a_missing_file_is_said_plainly(tmp_path: Path) -> None:
    done = evenseam_alone("listen", str(tmp_path / "none.wav"))
    assert done.returncode == 2
    assert "is not there" in done.stderr


def test_marks_go_from_one_form_to_another(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("frame,label,kind,weight\n50,lamp,beat,must\n")
    done = evenseam("marks", str(tmp_path / "a.csv"), "--fps", "25", "--start", "01:00:00:00", "--out", str(tmp_path / "a.edl"))
    assert done.stdout == "shots: 0, hits: 1, lines: 0\n"
    back = json.loads(evenseam("marks", str(tmp_path / "a.edl"), "--fps", "25", "--start", "01:00:00:00", "--json").stdout)
    assert back["hits"] == [
        {"at_frames": 50, "label": "lamp", "kind": "beat", "weight": "must", "tolerance_frames": 0, "until_frames": None}
    ]
    refused = evenseam("marks", str(tmp_path / "a.edl"), "--fps", "25")
    assert refused.returncode == 2
    assert "starts at 01:00:00:00, the picture at 00:00:00:00" in refused.stderr


def test_a_batch_fits_every_row_and_says_which_it_could_not(loop_wav: Path, tmp_path: Path) -> None:
    rows = f"track,to,hits,out\n{loop_wav},0:07,,short.wav\n{loop_wav},0:30,0:8;0:16.03,\nmissing.wav,10,,\n"
    file = tmp_path / "fits.csv"
    file.write_text(rows)
    done = evenseam_alone("batch", str(file))
    assert done.returncode == 2
    first, *told = done.stdout.strip().splitlines()
    assert first.split() == ["row", "track", "to", "seams", "speed", "hits", "opens"]
    assert [line.split()[0] for line in told] == ["1", "2", "3"]
    assert "2 of 2" in told[1]
    assert "refused: missing.wav" in told[2]
    assert sf.info(tmp_path / "short.wav").duration == pytest.approx(7, abs=1e-4)


def test_a_batch_that_is_stopped_says_what_is_done_and_leaves_nothing_running(loop_wav: Path, tmp_path: Path) -> None:
    for number in range(20):
        (tmp_path / f"{number}.wav").hardlink_to(loop_wav)
    file = tmp_path / "fits.csv"
    file.write_text("track,to\n" + "".join(f"{number}.wav,0:20\n" for number in range(20)))
    # With signals of its own: started in the background of a shell, all that is begun here would not hear of Ctrl-C.
    own_signals = ["env", "--default-signal=INT"]
    command = [*own_signals, sys.executable, "-m", "evenseam.cli", "batch", str(file), "--workers", "1"]
    with subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, start_new_session=True
    ) as running:
        assert running.stderr is not None
        assert running.stderr.readline().startswith("1 of 20: row 1, 0.wav to 0:20, seams: ")
        os.killpg(running.pid, signal.SIGINT)  # as a terminal does it, to all of them
        told, problems = running.communicate()  # until the last of them has let go of it
    assert running.returncode == 130
    assert "Stopped after " in problems
    assert "Traceback" not in problems, problems
    assert 1 < len(told.splitlines()) < 20


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("track,to\n", "holds no rows"),
        ("to\n0:10\n", "Row 1 names no track"),
        ("track,to,hold\na.wav,0:10,many\n", "Row 1, hold"),
        ("track,to\na.wav,0:10\nb.wav,later\n", "Row 2"),
        ("track,to,colour\na.wav,0:10,red\n", "Row 1, colour"),
    ],
)
def test_a_batch_that_cannot_be_read_names_the_row_before_anything_is_heard(tmp_path: Path, rows: str, words: str) -> None:
    file = tmp_path / "fits.csv"
    file.write_text(rows)
    refused = evenseam("batch", str(file))
    assert refused.returncode == 2
    assert words in refused.stderr
