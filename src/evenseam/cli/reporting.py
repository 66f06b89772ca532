"""A plan in the words of the command line's JSON contract: its stored form, with seconds for people beside the samples."""

from typing import Any

from evenseam.core.plan import HitMet, Passage, Plan
from evenseam.core.timebase import FrameRate
from evenseam.store.plans import stored_plan

_ENDS = ("source_in_samples", "source_out_samples", "out_in_samples", "out_out_samples")


def plan_report(plan: Plan, frame_rate: FrameRate | None = None) -> dict[str, Any]:
    """One entry of `fits` in the JSON of `evenseam fit --json`. `frame_rate`: in whose frames a hit's error is counted."""
    whole = _with_seconds(stored_plan(plan), plan.rate)
    return {
        **whole,
        "length_samples": plan.pieces()[-1].out_out_samples,
        "sample_rate": plan.rate,
        "max_speed_change_pct": round(plan.max_speed_change_pct(), 4),
        "score": round(plan.score, 4),
        "passages": [_passage(p, plan.rate) for p in plan.passages],
        "seams": [{**seam, "percentile": round(seam["percentile"], 1)} for seam in whole["seams"]],
        "hits": [
            {**said, "kept": hit.is_kept, "error_frames": _error_frames(hit, plan.rate, frame_rate)}
            for said, hit in zip(whole["hits"], plan.hits, strict=True)
        ],
    }


def _passage(p: Passage, rate: int) -> dict[str, Any]:
    anchors = [[pin.source_samples, pin.out_samples] for pin in p.pins]
    return {
        **_with_seconds({name: getattr(p, name) for name in _ENDS}, rate),
        "anchors": [[_s(value, rate) for value in anchor] for anchor in anchors],
        "anchors_samples": anchors,
    }


def _error_frames(hit: HitMet, rate: int, frame_rate: FrameRate | None) -> float | None:
    if hit.landed_samples is None or frame_rate is None:
        return None
    return round(float((hit.landed_samples - hit.asked_samples) * frame_rate.fps / rate), 3)


def _with_seconds(value: Any, rate: int) -> Any:
    """The same with `..._s` beside every `..._samples`, all the way down."""
    if isinstance(value, list):
        return [_with_seconds(v, rate) for v in value]
    if not isinstance(value, dict):
        return value
    seconds = {f"{name[: -len('_samples')]}_s": _s(v, rate) for name, v in value.items() if name.endswith("_samples")}
    return {**{name: _with_seconds(v, rate) for name, v in value.items()}, **seconds}


def _s(samples: int | None, rate: int) -> float | None:
    return None if samples is None else round(samples / rate, 6)
