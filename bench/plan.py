"""How well lengths and hits are met: at the track's own speed, with which seams, and which hits are kept.

Usage: plan.py [FOLDER...] [--hits N]   (recordings to fit beside the demo tracks; those in free time have no hits)
Prints what became of plain lengths of 30 s and more, of N lists of four hits at random frames with a give of 3 %, of N of
two hits and a last hit with a give of 1 %, and of N of eight hits in ten minutes, each asked for in several ways. A list is
within reach where whole numbers of beats fit between its hits.
"""

import argparse
import time
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from evenseam.core.audio.decode import decode
from evenseam.core.chart import Chart
from evenseam.core.errors import NoPlanError
from evenseam.core.listen import listen
from evenseam.core.plan import Aim, Brief, Plan, Wish
from evenseam.core.plan.planner import Planner
from evenseam.demo.load import MUSIC

LENGTHS_S = (30, 45, 60, 75, 90, 120, 150, 180, 240, 300, 37.4, 51.3, 66.6, 100.1)
FPS = 25
APART_S = 3.0
TOO_NEAR_S = 0.6  # for any two downbeats
LONG_S = 600.0
HALF_FRAME_S = 1 / FPS / 2


@dataclass
class Tally:
    """What became of some briefs."""

    plans: list[Plan] = field(default_factory=list)
    kept: list[bool] = field(default_factory=list)
    reachable: list[bool] = field(default_factory=list)
    spent_ms: list[float] = field(default_factory=list)
    refused: int = 0

    def plan(self, planner: Planner, brief: Brief) -> Plan | None:
        """The plan of a brief, noted."""
        began = time.perf_counter()
        try:
            made = planner.plan(brief)
        except NoPlanError:
            self.refused += 1
            return None
        finally:
            self.spent_ms.append((time.perf_counter() - began) * 1000)
        self.plans.append(made)
        return made

    def told(self) -> str:
        """In one line."""
        p50, p95 = np.percentile(self.spent_ms, [50, 95])
        times = f"{p50:.0f} ms, p95 {p95:.0f} ms"
        if not self.plans:
            return f"{self.refused} refused; {times}"
        grades = Counter(s.grade for p in self.plans for s in p.seams)
        own = np.mean([p.max_speed_change_pct() == 0 for p in self.plans])
        fastest = np.percentile([abs(p.max_speed_change_pct()) for p in self.plans], 90)
        seams = np.mean([len(p.seams) for p in self.plans])
        graded = " ".join(f"{grade} {grades[grade]}" for grade in ("even", "faint", "plain"))
        return (
            f"{len(self.plans)} plans, {self.refused} refused; own speed {own:.0%}, p90 {fastest:.2f} %; "
            f"{seams:.2f} seams ({graded}); {times}"
        )


def is_reachable(seconds: list[float], chart: Chart, give: float) -> bool:
    """Whether whole numbers of beats fit between hits, with give and half a frame to spare."""
    beat_s = float(np.median(np.diff(chart.beats))) / chart.rate
    spans = np.diff([0.0, *seconds])
    beats = np.maximum(1, np.rint(spans / beat_s))
    return bool(np.all(np.abs(beats * beat_s - spans) <= give * spans + HALF_FRAME_S))


def some_hits(rng: np.random.Generator, count: int, length_s: float) -> list[float]:
    """Random frames, some seconds apart, away from both ends."""
    while True:
        seconds = np.sort(np.round(rng.uniform(3, length_s - 3, count) * FPS) / FPS)
        if count < 2 or np.diff(seconds).min() >= APART_S:
            return seconds.tolist()


def aim(seconds: float, rate: int, kind: str = "downbeat") -> Aim:
    """A must at a frame."""
    return Aim(round(seconds * rate), kind, "must", round(HALF_FRAME_S * rate))  # type: ignore[arg-type]


def long_briefs(rng: np.random.Generator, rate: int) -> Iterator[tuple[str, Brief]]:
    """Ten minutes, past eight hits but for the last two, and how they are asked for."""
    aims = tuple(replace(aim(s, rate), weight="should") for s in some_hits(rng, 8, LONG_S))
    musts = tuple(replace(a, weight="must") for a in aims)
    asked = Brief(round(LONG_S * rate), aims=aims)
    yield "better met than not", asked
    yield "musts", replace(asked, aims=musts)
    yield "musts, give 0", replace(asked, aims=musts, give_pct=0.0)
    yield "on any beat", replace(asked, aims=tuple(replace(a, kind="beat") for a in aims))
    yield "at sections", replace(asked, aims=tuple(replace(a, kind="section") for a in aims))
    yield "and a last hit", replace(asked, aims=(*aims[:-1], aim(LONG_S - APART_S, rate, "last_hit")))
    yield "ten seams at most", replace(asked, max_seams=10)
    yield "four seams at most", replace(asked, max_seams=4)
    pairs = tuple(replace(a, at_samples=a.at_samples + late) for a in musts[::2] for late in (0, round(TOO_NEAR_S * rate)))
    yield "pairs of musts too near each other, give 0", replace(asked, aims=pairs, give_pct=0.0)
    yield "no hits, give 0", replace(asked, aims=(), give_pct=0.0)
    yield "no hits, give 0, six seams at most", replace(asked, aims=(), give_pct=0.0, max_seams=6)
    half = asked.target_samples // 2
    shape = Wish(0, half, 0.2, 0.8), Wish(half, asked.target_samples, 0.9, 0.3)
    yield "better met than not, with a shape", replace(asked, shape=shape)
    yield "no hits, with a shape", replace(asked, aims=(), shape=shape)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path, nargs="*")
    parser.add_argument("--hits", type=int, default=10)
    args = parser.parse_args()
    plain, four, ending, long = Tally(), Tally(), Tally(), defaultdict(Tally)
    for path in [*sorted(MUSIC.glob("*.ogg")), *(p for f in args.folder for p in sorted(f.glob("*.flac")))]:
        audio = decode(path)
        chart, rate = listen(audio), audio.rate
        planner, rng = Planner(chart, audio.samples), np.random.default_rng(7)
        for seconds in LENGTHS_S:
            plain.plan(planner, Brief(round(seconds * rate)))
        for _ in range(0 if chart.free_time else args.hits):
            length_s = float(rng.uniform(30, 180))
            for tally, count, give in ((four, 4, 3.0), (ending, 2, 1.0)):
                seconds = some_hits(rng, count, length_s - (6 if tally is ending else 0))
                aims = [aim(s, rate) for s in seconds]
                if tally is ending:
                    aims.append(aim(round((length_s - 3) * FPS) / FPS, rate, "last_hit"))
                made = tally.plan(planner, Brief(round(length_s * rate), give_pct=give, aims=tuple(aims)))
                tally.kept.append(made is not None and all(h.is_kept for h in made.hits))
                tally.reachable.append(is_reachable([a.at_samples / rate for a in aims], chart, give / 100))
            for how, brief in long_briefs(rng, rate):
                long[how].plan(planner, brief)
    print(f"plain lengths: {plain.told()}")
    for how, tally in long.items():
        print(f"ten minutes, {how}: {tally.told()}")
    p50, p95 = np.percentile([ms for tally in long.values() for ms in tally.spent_ms], [50, 95])
    print(f"ten minutes, however asked: {p50:.0f} ms, p95 {p95:.0f} ms")
    for words, tally in (("four hits, give 3 %", four), ("two hits and a last hit, give 1 %", ending)):
        kept, near = np.array(tally.kept), np.array(tally.reachable)
        print(f"{words}: all kept {kept.mean():.0%}; within reach {near.mean():.0%}, of these kept {kept[near].mean():.0%}")
        print(f"  {tally.told()}")


if __name__ == "__main__":
    main()
