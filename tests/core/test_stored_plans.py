"""Plans that were kept: every version opens, sounds as it did, and the present one comes back as it was."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.cli.reporting import plan_report
from evenseam.core.plan import PLAN_VERSION, Fade, HitMet, Landing, Opening, Passage, Pin, Plan, Rest, Seam
from evenseam.core.render import Renderer
from evenseam.core.timebase import FrameRate
from evenseam.store.errors import FitUnreadableError
from evenseam.store.plans import read_plan, stored_plan
from tests.conftest import drum_loop

BASELINES = sorted(Path(__file__).with_name("baselines").glob("plans_v*.json"))


def kept(version: int) -> list[dict[str, Any]]:
    return json.loads(Path(__file__).with_name("baselines").joinpath(f"plans_v{version}.json").read_text())["fits"]


def test_there_is_a_baseline_of_every_version() -> None:
    assert [p.name for p in BASELINES] == [f"plans_v{v}.json" for v in range(1, PLAN_VERSION + 1)]


@pytest.mark.parametrize("version", range(1, PLAN_VERSION + 1))
def test_a_kept_plan_opens_and_sounds_as_it_did(version: int) -> None:
    audio = drum_loop(40.0)
    for fit in kept(version):
        plan = read_plan(fit["plan"])
        assert plan.max_speed_change_pct() == pytest.approx(fit["speed_change_pct"], abs=2e-3)
        assert all(len(p.pins) <= 3 for p in plan.passages), "only what holds the music is a pin"
        sound = Renderer(plan, audio.samples).block(0, plan.target_samples)
        if plan.max_speed_change_pct() == 0:
            np.testing.assert_allclose(sound[0, fit["at_samples"]], fit["left"], rtol=0, atol=2e-6)
        half_s = plan.rate // 2
        levels = [float(np.sqrt(np.mean(sound[:, k : k + half_s] ** 2))) for k in range(0, plan.target_samples, half_s)]
        apart_db = 20 * np.log10(np.array(levels) / fit["levels_every_half_s"])
        assert np.abs(apart_db[:-1]).max() < 0.5


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    """Any plan that holds together."""
    n = draw(st.integers(1, 4))
    passages: list[Passage] = []
    rests, seams, at = [], [], 0
    for k in range(n):
        if k and draw(st.booleans()):
            rests.append(Rest(at, at + 5, Fade(draw(st.integers(0, 9)), "cosine"), Fade(2)))
            at += 5
        elif k:
            seams.append(
                Seam(at, 7, 9, 4, draw(st.floats(-1, 1)), draw(st.floats(0, 100)), "faint", draw(st.booleans()), "breath")
            )
        source = draw(st.integers(0, 1000))
        pins = [Pin(source, at)]
        for step, out in draw(st.lists(st.tuples(st.integers(1, 99), st.integers(1, 99)), min_size=1, max_size=3)):
            pins.append(Pin(pins[-1].source_samples + step, pins[-1].out_samples + out))
        passages.append(Passage(tuple(pins)))
        at = pins[-1].out_samples
    landed = draw(st.one_of(st.none(), st.integers(0, 99)))
    hits = tuple(
        HitMet(k, landed, "silence" if k else "beat", "must", 3, None, f"hit {k}") for k in range(draw(st.integers(0, 2)))
    )
    return Plan(
        "blend", 48_000, at, tuple(passages), tuple(seams), draw(st.floats(0, 9)), tuple(rests), hits,
        Opening(draw(st.sampled_from(["own", "section", "bar"]))), Landing(draw(st.sampled_from(["ring_out", "last_hit", "fade"])), landed),
        Fade(3), Fade(4, "cosine"), draw(st.floats(-24, 24)),
    )  # fmt: skip


@settings(deadline=None)
@given(plans())
def test_a_plan_comes_back_from_its_stored_form_and_can_be_told(plan: Plan) -> None:
    assert read_plan(json.loads(json.dumps(stored_plan(plan)))) == plan
    told = json.loads(json.dumps(plan_report(plan, FrameRate.parse("25"))))
    assert told["length_samples"] == plan.target_samples == told["target_samples"]
    assert [p["anchors_samples"][0] for p in told["passages"]] == [
        [p.source_in_samples, p.out_in_samples] for p in plan.passages
    ]
    assert all(h["asked_s"] == round(h["asked_samples"] / 48_000, 6) for h in told["hits"])
    assert [h["kept"] for h in told["hits"]] == [h.is_kept for h in plan.hits]


@pytest.mark.parametrize(
    "damage",
    [
        {"version": 99},
        {"version": None},
        {"passages": []},
        {"target_samples": 5},
        {"seams": "x"},
        {"gain_db": 99.0},
        {"rate": None},
    ],
)
def test_what_cannot_be_read_says_so(damage: dict[str, Any]) -> None:
    with pytest.raises(FitUnreadableError, match="Fit the cue again"):
        read_plan({**kept(PLAN_VERSION)[0]["plan"], **damage})
