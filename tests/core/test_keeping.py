"""What is kept for whoever asks again: made once however many ask at the same time, and no lock is held for others meanwhile."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier, Event

import pytest

from evenseam.core.keeping import Kept
from evenseam.core.plan import Brief
from evenseam.core.plan import offer as offers
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.joins import Joins
from tests.conftest import heard

AT_ONCE = 8


def test_many_who_ask_at_once_are_given_one_value() -> None:
    kept, made, together = Kept[str, object](4), list[object](), Barrier(AT_ONCE)

    def make() -> object:
        made.append(object())
        return made[-1]

    def ask(_: int) -> object:
        together.wait()
        return kept.get("a", make)

    with ThreadPoolExecutor(AT_ONCE) as pool:
        given = list(pool.map(ask, range(AT_ONCE)))
    assert len(made) == 1
    assert set(given) == set(made)


def test_one_that_is_being_made_keeps_nobody_from_another() -> None:
    kept, is_other_there = Kept[str, int](4), Event()

    def slow() -> int:
        assert is_other_there.wait(timeout=30)
        return 1

    with ThreadPoolExecutor(1) as pool:
        waits = pool.submit(kept.get, "slow", slow)
        assert kept.get("quick", lambda: 2) == 2
        is_other_there.set()
        assert waits.result() == 1


def test_what_fails_or_is_too_large_is_not_kept_and_what_was_used_last_is() -> None:
    kept, asked = Kept[str, int](2), Counter[str]()

    def make(key: str) -> int:
        asked[key] += 1
        return asked[key]

    with pytest.raises(ZeroDivisionError):
        kept.get("a", lambda: 1 // 0)
    assert kept.get("a", lambda: make("a"), lambda value: value > 1) == 1
    assert kept.get("a", lambda: make("a"), lambda value: value > 1) == 2
    assert [kept.get(key, lambda key=key: make(key)) for key in "abac"] == [2, 1, 2, 1]  # type: ignore[misc]
    assert [kept.get(key, lambda key=key: make(key)) for key in "acb"] == [2, 1, 2]  # type: ignore[misc]
    kept.forget(lambda key: key == "b")
    assert kept.get("b", lambda: make("b")) == 3


def test_a_track_is_weighed_once_however_many_pages_ask_first(monkeypatch: pytest.MonkeyPatch) -> None:
    weighed = Counter[str]()
    edges, moves = offers.seam_edges, Joins.best_moves

    def counted_edges(*args: object) -> object:
        weighed["edges"] += 1
        return edges(*args)  # type: ignore[arg-type]

    def counted_moves(self: Joins, *args: object) -> object:
        weighed["moves"] += 1
        return moves(self, *args)  # type: ignore[arg-type]

    monkeypatch.setattr(offers, "seam_edges", counted_edges)
    monkeypatch.setattr(Joins, "best_moves", counted_moves)
    known, together = heard("first_light"), Barrier(AT_ONCE)
    planner = Planner(known.chart, known.audio.samples)
    brief = Brief(40 * known.chart.rate, give_pct=0.0, hold_bars=4, max_seams=8)

    def ask(_: int) -> object:
        together.wait()
        return planner.plan(brief)

    with ThreadPoolExecutor(AT_ONCE) as pool:
        plans = list(pool.map(ask, range(AT_ONCE)))
    assert all(plan == plans[0] for plan in plans)
    assert weighed["moves"] == 1
    assert weighed["edges"] <= 2, "with and without short bars"
