"""The command line: `evenseam listen`, `fit` and `batch` need no server and no database; `evenseam serve` is the server."""

import json
import sys
import time
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

from evenseam.cli.asking import Asked
from evenseam.cli.hearing import heard
from evenseam.cli.options import with_options_of
from evenseam.core.errors import EvenSeamError, FileRefusedError
from evenseam.core.jit import interpret

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help=__doc__)

_Track = Annotated[Path, typer.Argument(help="An audio file.", show_default=False)]
_AsJson = Annotated[bool, typer.Option("--json", help="Print JSON for programs.")]
_IsCached = Annotated[bool, typer.Option("--cached/--uncached", help="Use what was heard of a file before, and keep it.")]
_REFUSED, _STOPPED = 2, 130  # exit codes


@app.command()
def listen(audio: _Track, as_json: _AsJson = False, is_cached: _IsCached = True) -> None:
    """Hear a track: beats, bars, sections, opening and ending."""
    from evenseam.core.chart import roles_of
    from evenseam.core.chart.chart import meter_name

    began = time.perf_counter()
    with heard(audio, is_cached) as track:
        chart, was_kept = track.chart, track.was_kept
    report = {**chart.to_json(time.perf_counter() - began), "was_kept": was_kept}
    for section, role in zip(report["sections"], roles_of(chart), strict=True):
        section["role"] = role
    if as_json:
        print(json.dumps(report))
        return
    time_words = "free time" if chart.free_time else f"{chart.tempo_bpm:.1f} bpm, {meter_name(chart)}"
    sections = " ".join(f"{s['label']} ({s['role']})" if s["role"] else s["label"] for s in report["sections"])
    sure = ", ".join(f"{name} {value:.0%}" for name, value in report["confidence"].items())
    print(f"{report['duration_s']:.1f} s, {time_words}, {report['key']}, {chart.loudness_lufs:.1f} LUFS")
    count = (
        f"{len(report['breaths'])} breaths"
        if chart.free_time
        else f"{len(report['beats'])} beats, {len(report['downbeats'])} bars"
    )
    print(f"{count}, sections {sections}; sure of: {sure}")
    print(f"last hit {report['last_hit_s']:.2f} s, ring-out ends {report['ring_out_end_s']:.2f} s")


def fit(
    audio: _Track,
    asked: Asked,
    alternates: Annotated[int, typer.Option(help="How many different fits.", min=1, max=20)] = 1,
    follow: Annotated[
        Path | None, typer.Option(help="Bend the track so that each of its bars lands on one of this MIDI tempo map.")
    ] = None,
    sample_format: Annotated[str, typer.Option(help="Of --out: int16, int24 or float32.")] = "int24",
    out: Annotated[Path | None, typer.Option(help="Write the first fit as WAV.")] = None,
    beats: Annotated[
        Path | None, typer.Option(help="Write its beats as heard: a tempo map, a table of bars or a click (.mid, .csv, .wav).")
    ] = None,
    is_cached: _IsCached = True,
    as_json: _AsJson = False,
) -> None:
    """Fit a track to a length, and to hits."""
    from evenseam.cli.recordings import check_beats_form, check_sample_format, write_beats, write_fit
    from evenseam.cli.reporting import plan_report

    check_sample_format(sample_format)
    check_beats_form(beats)
    asked.check()
    with heard(audio, is_cached) as track:
        if track.was_kept and asked.is_quick and alternates == 1 and not follow:
            interpret()
        from evenseam.core.plan.planner import Planner

        began = time.perf_counter()
        brief = asked.brief(track.chart.rate)
        if follow:
            from evenseam.cli.tempi import following

            brief = following(brief, track.chart, follow)
        plans = Planner(track.chart, track.samples, track.joins, asked.marks(track.chart)).alternates(brief, alternates)
        elapsed_ms = (time.perf_counter() - began) * 1000
        if out:
            write_fit(plans[0], track.samples, out, sample_format)
        if beats:
            write_beats(plans[0], track.chart, beats, asked.frame_rate)
    report = {"fits": [plan_report(p, asked.frame_rate) for p in plans], "elapsed_ms": round(elapsed_ms, 2)}
    print(json.dumps(report) if as_json else _in_words(report))


app.command("fit")(with_options_of(Asked, fit, {"hits": "hit"}))


@app.command()
def batch(
    file: Annotated[Path, typer.Argument(help="CSV or JSON: a row for each fit.", show_default=False)],
    sample_format: Annotated[str, typer.Option(help="Of the files written: int16, int24 or float32.")] = "int24",
    workers: Annotated[int, typer.Option(help="Tracks heard and fitted at a time.", min=1, max=64)] = 2,
    is_cached: _IsCached = True,
    as_json: _AsJson = False,
) -> None:
    """Fit many tracks, lengths and hits, from one file. Columns: track, to, fps, hits, out, and the options of fit."""
    from evenseam.cli.batch import Fitted, fit_rows, in_a_line, in_a_table, read_rows, reported
    from evenseam.cli.recordings import check_sample_format

    check_sample_format(sample_format)
    rows, fitted, code = read_rows(file), list[Fitted](), 0
    try:
        for one in fit_rows(rows, sample_format, workers, is_cached):
            fitted.append(one)
            print(f"{len(fitted)} of {len(rows)}: {in_a_line(one)}", file=sys.stderr, flush=True)
            code = _REFUSED if one.problem else code
    except KeyboardInterrupt:  # what is done is told, and is there
        print(f"Stopped after {len(fitted)} of {len(rows)}.", file=sys.stderr)
        code = _STOPPED
    fitted.sort(key=lambda one: one.row.number)
    print(json.dumps({"rows": [reported(one) for one in fitted]}) if as_json else in_a_table(fitted))
    if code:
        raise typer.Exit(code)


def _in_words(report: dict[str, Any]) -> str:
    lines = []
    for number, one in enumerate(report["fits"], 1):
        lines.append(
            f"{number}: {one['length_samples'] / one['sample_rate']:.3f} s, seams: {len(one['seams'])}, "
            f"speed {one['max_speed_change_pct']:+.2f} %"
        )
        lines += [f"   seam at {s['out_s']:.3f} s, {s['grade']}: {s['reason']}" for s in one["seams"]]
        lines += [f"   {_hit_in_words(hit)}" for hit in one["hits"]]
    return "\n".join(lines)


def _hit_in_words(hit: dict[str, Any]) -> str:
    what = f"{hit['kind'].replace('_', ' ')} at {hit['asked_s']:.3f} s"
    if hit["landed_s"] is None:
        return f"{what}: missed, there is none"
    off = f"{hit['landed_s'] - hit['asked_s']:+.3f} s"
    return f"{what}: {'met' if hit['kept'] else 'missed by'} {off}"


@app.command()
def tempo(
    hit: Annotated[list[str], typer.Option(help="TIME[,kind][,frames]: downbeat or beat; again for each.")],
    fps: Annotated[str, typer.Option(help="Rate of the picture: 25, 29.97df, 30000/1001.")] = "25",
    low: Annotated[float, typer.Option(help="Slowest tempo, in bpm.")] = 60.0,
    high: Annotated[float, typer.Option(help="Fastest tempo.")] = 180.0,
    meter: Annotated[int, typer.Option(help="Beats in a bar; 0 for whichever suits.", min=0, max=12)] = 4,
    starts: Annotated[str | None, typer.Option(help="Where bar one starts; left out: wherever it suits.")] = None,
    count: Annotated[int, typer.Option(help="How many tempi.", min=1, max=50)] = 8,
    midi: Annotated[Path | None, typer.Option(help="Write the best as a MIDI tempo map with the hits as markers.")] = None,
    click: Annotated[Path | None, typer.Option(help="Write the best as a click, WAV.")] = None,
    count_in: Annotated[int, typer.Option(help="Bars clicked before bar one.", min=0, max=8)] = 0,
    accent: Annotated[bool, typer.Option(help="Tell downbeats apart.")] = True,
    parts: Annotated[int, typer.Option(help="Click every beat in so many parts: 2 for the off-beats.", min=1, max=4)] = 1,
    map_: Annotated[
        Path | None, typer.Option("--map", help="Lay a MIDI tempo map beside the hits, in the place of finding a tempo.")
    ] = None,
    bend: Annotated[float | None, typer.Option(help="Bend that map to the hits, by so many per cent at most.", min=0.1)] = None,
    bars: Annotated[Path | None, typer.Option(help="Write the bars of that map with their timecodes, CSV.")] = None,
    as_json: _AsJson = False,
) -> None:
    """Find the steady tempo that meets the hits of a picture, or see where a tempo map has them."""
    from evenseam.cli.tempi import MapFiles, Wanted, in_a_table, laid_beside, reported, write_click, write_midi
    from evenseam.core.exchange.tempi.click_wav import ClickStyle

    wanted, style = Wanted(tuple(hit), fps, low, high, meter, starts, count), ClickStyle(count_in, accent, parts)
    if map_:
        laid, words = laid_beside(map_, wanted, MapFiles(midi, click, bars, style), bend)
        print(json.dumps(laid) if as_json else words)
        return
    answers = wanted.answers()
    found: dict[str, Any] = {"tempi": reported(answers, wanted.rate)}
    if midi:
        write_midi(midi, answers[0], wanted.aims())
    if click:
        found["click_early_s"] = write_click(click, answers[0], wanted.aims(), style)
    print(json.dumps(found) if as_json else in_a_table(answers, wanted.rate))
    if not as_json and found.get("click_early_s"):
        print(f"The click starts {found['click_early_s']} s before the picture, for its count-in.")


@app.command()
def marks(
    file: Annotated[
        Path, typer.Argument(help="CSV, CMX 3600 edit list, OpenTimelineIO, WebVTT, SRT or MIDI.", show_default=False)
    ],
    fps: Annotated[str, typer.Option(help="Rate of the picture: 25, 29.97df, 30000/1001.")],
    start: Annotated[str | None, typer.Option(help="Timecode of the picture's first frame.")] = None,
    shift: Annotated[bool, typer.Option(help="Take an edit list that starts elsewhere as starting there.")] = False,
    out: Annotated[Path | None, typer.Option(help="Write them in another form, by the ending of this name.")] = None,
    as_json: _AsJson = False,
) -> None:
    """Read the shots, hits and lines of a picture, and write them in another form."""
    from evenseam.core.exchange.marks import read_marks, write_marks
    from evenseam.core.spot import Sheet
    from evenseam.core.timebase import FrameRate, parse_timecode_frames

    rate = FrameRate.parse(fps)
    start_frames = parse_timecode_frames(start, rate) if start else 0
    try:
        data = file.read_bytes()
    except OSError as error:
        raise FileRefusedError(f"{file} cannot be read: {error.strerror}.") from None
    read = read_marks(file.suffix, data, rate, start_frames, shift)
    last = max([m.end_frames for m in (*read.shots, *read.lines)] + [h.until_frames or h.at_frames + 1 for h in read.hits])
    sheet = Sheet(rate, last, start_frames, read.shots, read.hits, read.lines)
    if out:
        out.write_bytes(write_marks(out.suffix, sheet))
    kinds = ("shots", "hits", "lines")
    report = {kind: [{k: v for k, v in asdict(m).items() if k != "id"} for m in getattr(read, kind)] for kind in kinds}
    if as_json:
        print(json.dumps({**report, "notes": read.notes}))
        return
    print(", ".join(f"{kind}: {len(found)}" for kind, found in report.items()))
    for note in read.notes:
        print(f"note: {note}")


@app.command()
def serve() -> None:
    """Run the application's server (settings come from EVENSEAM_... in the environment; see README)."""
    from evenseam.ops.server import run

    run()


@app.command()
def catalogue(
    port: Annotated[int, typer.Option(help="Loopback port.")] = 8621,
    delay: Annotated[float, typer.Option(help="Seconds before every answer, to try a slow service.")] = 0.0,
    down: Annotated[bool, typer.Option(help="Refuse everything, to try a service that is down.")] = False,
) -> None:
    """Run the music catalogue's stand-in (./start does so by itself)."""
    from evenseam.catalogue.app import Weather, create_catalogue
    from evenseam.ops.serving import serve

    serve(create_catalogue(Weather(delay, down)), host="127.0.0.1", port=port, log_level="warning")


@app.command()
def up() -> None:
    """Start database, demo and server (what ./start ends in)."""
    from evenseam.ops.up import up as start

    start()


@app.command()
def openapi() -> None:
    """Print the OpenAPI description the front end's types are made from."""
    from evenseam.api.app import create_app
    from evenseam.settings import Settings

    print(json.dumps(create_app(Settings(), "").openapi(), indent=1, sort_keys=True))


def main() -> None:
    """Entry point: every refusal is one line and exit code 2."""
    try:
        app(standalone_mode=True)
    except EvenSeamError as error:
        _refuse(error.detail)


def _refuse(words: str) -> NoReturn:
    print(f"evenseam: {words}", file=sys.stderr)
    sys.exit(_REFUSED)
