"""Many fits from one file: a row each, of CSV or JSON, every track heard once, tracks side by side on the job engine."""

import csv
import json
import logging
from collections import Counter
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from evenseam.cli.asking import Asked
from evenseam.cli.hearing import HeardFile, heard
from evenseam.cli.recordings import write_fit
from evenseam.cli.reporting import plan_report
from evenseam.core.errors import EvenSeamError, FileRefusedError
from evenseam.jobs.interrupts import unheard

_LISTS = ("hits", "keep", "skip", "guard", "shape", "listen")
_BETWEEN = ";"  # in a cell of CSV that holds several
_LARGEST_FILE = 10_000_000
_MOST_ROWS = 10_000


@dataclass(frozen=True, slots=True)
class Row:
    """One fit of a batch: its number in the file, from 1, its track, what is asked, and the file that it is written to."""

    number: int
    track: Path
    asked: Asked
    out: Path | None


@dataclass(frozen=True, slots=True)
class Fitted:
    """What became of a row: a report of the fit, or why there is none."""

    row: Row
    report: dict[str, Any] | None
    problem: str


def read_rows(path: Path) -> list[Row]:
    """The rows of a file; tracks and files to write are looked for beside it. Raises: FileRefusedError, which names the row."""
    try:
        if path.stat().st_size > _LARGEST_FILE:
            raise FileRefusedError(f"{path.name} is too large for a list of fits.")
        text = path.read_text(encoding="utf-8-sig")
        rows = json.loads(text) if path.suffix.lower() == ".json" else list(csv.DictReader(text.splitlines()))
    except (OSError, UnicodeDecodeError, json.JSONDecodeError, csv.Error) as error:
        raise FileRefusedError(f"{path.name} cannot be read as a list of fits: {error}") from error
    if not isinstance(rows, list) or not rows or len(rows) > _MOST_ROWS:
        raise FileRefusedError(f"{path.name} holds no rows, or more than {_MOST_ROWS:,}. Give one for each fit: track, to.")
    return [_row(number, row, path.parent) for number, row in enumerate(rows, 1)]


def _row(number: int, row: Any, folder: Path) -> Row:
    try:
        said = {name: _cell(name, value) for name, value in dict(row).items() if value not in (None, "", [])}
        track, out = str(said.pop("track")), said.pop("out", None)
        asked = Asked(**said)
        asked.check()
        return Row(number, folder / track, asked, folder / str(out) if out else None)
    except KeyError as error:
        raise FileRefusedError(f"Row {number} names no track. Add a column 'track'.") from error
    except ValidationError as error:
        told = error.errors()[0]
        raise FileRefusedError(f"Row {number}, {'.'.join(map(str, told['loc']))}: {told['msg']}.") from error
    except (EvenSeamError, TypeError, ValueError) as error:
        raise FileRefusedError(f"Row {number}: {error}") from error


def _cell(name: str, value: Any) -> Any:
    if name in _LISTS and isinstance(value, str):
        return [part.strip() for part in value.split(_BETWEEN) if part.strip()]
    return value


def fit_rows(rows: list[Row], sample_format: str, workers: int, is_cached: bool = True) -> Iterator[Fitted]:
    """Every row fitted, as they get done. One track is one job: it is heard once for all of its rows."""
    from distributed import Client, LocalCluster, as_completed

    by_track: dict[Path, list[Row]] = {}
    for row in rows:
        by_track.setdefault(row.track, []).append(row)
    at_once = min(workers, len(by_track))
    alone = {"threads_per_worker": 1, "host": "127.0.0.1", "protocol": "tls", "security": True}
    any_port = "127.0.0.1:0"  # it has one whatever is asked for, and says so where another batch has the usual one
    with ExitStack() as running:
        with unheard():  # the workers end with the batch
            client = running.enter_context(
                Client(running.enter_context(LocalCluster(n_workers=at_once, dashboard_address=any_port, **alone)))
            )
        jobs = client.map(fit_track, list(by_track.values()), sample_format=sample_format, is_cached=is_cached, pure=False)
        try:
            for _, fitted in as_completed(jobs, with_results=True):
                yield from fitted
        except BaseException:  # it was stopped: what is given up in the middle is no error
            for name in ("distributed", "tornado.application"):
                logging.getLogger(name).setLevel(logging.CRITICAL)
            raise


def fit_track(rows: list[Row], sample_format: str, is_cached: bool) -> list[Fitted]:
    """The rows of one track, which is heard once for all of them. What refuses one of them does not stop the others."""
    try:
        with heard(rows[0].track, is_cached) as track:
            return [_fitted(row, track, sample_format) for row in rows]
    except EvenSeamError as error:
        return [Fitted(row, None, error.detail) for row in rows]


def _fitted(row: Row, track: HeardFile, sample_format: str) -> Fitted:
    from evenseam.core.plan.planner import Planner

    try:
        chart = track.chart
        plan = Planner(chart, track.samples, track.joins, row.asked.marks(chart)).plan(row.asked.brief(chart.rate))
        if row.out:
            write_fit(plan, track.samples, row.out, sample_format)
        return Fitted(row, plan_report(plan, row.asked.frame_rate), "")
    except EvenSeamError as error:
        return Fitted(row, None, error.detail)


def in_a_line(fitted: Fitted) -> str:
    """A row that is done, while others are still under way."""
    became = f"refused: {fitted.problem}" if fitted.report is None else f"seams: {len(fitted.report['seams'])}"
    return f"row {fitted.row.number}, {fitted.row.track.name} to {fitted.row.asked.to}, {became}"


def reported(fitted: Fitted) -> dict[str, Any]:
    """A row of the JSON that is printed."""
    row = {"row": fitted.row.number, "track": fitted.row.track.name, "to": fitted.row.asked.to}
    return {**row, "problem": fitted.problem} if fitted.report is None else {**row, "fit": fitted.report}


def in_a_table(fitted: list[Fitted]) -> str:
    """What became of every row, one line each."""
    rows = [("row", "track", "to", "seams", "speed", "hits", "opens"), *map(_line, fitted)]
    widths = [max(len(row[k]) for row in rows) for k in range(len(rows[0]) - 1)]
    columns = [*widths, 0]
    return "\n".join("  ".join(f"{cell:{width}}" for cell, width in zip(row, columns, strict=True)).rstrip() for row in rows)


def _line(fitted: Fitted) -> tuple[str, ...]:
    begins = (str(fitted.row.number), fitted.row.track.name, fitted.row.asked.to)
    if fitted.report is None:
        return (*begins, "-", "-", "-", f"refused: {fitted.problem}")
    grades = Counter(seam["grade"] for seam in fitted.report["seams"])
    seams = ", ".join(f"{grades[grade]} {grade}" for grade in ("plain", "faint", "even") if grades[grade]) or "none"
    hits = fitted.report["hits"]
    kept = f"{sum(hit['kept'] for hit in hits)} of {len(hits)}" if hits else "-"
    return (*begins, seams, f"{fitted.report['max_speed_change_pct']:+.2f} %", kept, fitted.report["opening"]["kind"])
