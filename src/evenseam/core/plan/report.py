"""A plan in the words of the command line's JSON contract: seconds for people, samples beside them."""

from typing import Any

from evenseam.core.plan.plan import Passage, Plan, Seam


def plan_json(plan: Plan) -> dict[str, Any]:
    """One entry of `fits` in the JSON of `evenseam fit --json`."""
    return {
        "method": plan.method,
        "length_samples": plan.passages[-1].out_out_samples,
        "target_samples": plan.target_samples,
        "sample_rate": plan.rate,
        "max_speed_change_pct": round(plan.max_speed_change_pct(), 4),
        "score": round(plan.score, 4),
        "passages": [_passage_json(p, plan.rate) for p in plan.passages],
        "seams": [_seam_json(s, plan.rate) for s in plan.seams],
        "hits": [],
    }


def _passage_json(p: Passage, rate: int) -> dict[str, Any]:
    return {
        "source_in_s": _s(p.source_in_samples, rate),
        "source_out_s": _s(p.source_out_samples, rate),
        "out_in_s": _s(p.out_in_samples, rate),
        "out_out_s": _s(p.out_out_samples, rate),
        "anchors": [[_s(a.source, rate), _s(a.out, rate)] for a in p.anchors],
        "source_in_samples": p.source_in_samples,
        "source_out_samples": p.source_out_samples,
        "out_in_samples": p.out_in_samples,
        "out_out_samples": p.out_out_samples,
        "anchors_samples": [list(a) for a in p.anchors],
    }


def _seam_json(s: Seam, rate: int) -> dict[str, Any]:
    return {
        "out_s": _s(s.out_samples, rate),
        "source_from_s": _s(s.source_from_samples, rate),
        "source_to_s": _s(s.source_to_samples, rate),
        "grade": s.grade,
        "percentile": round(s.percentile, 1),
        "short_bar": s.short_bar,
        "kind": s.kind,
        "out_samples": s.out_samples,
        "source_from_samples": s.source_from_samples,
        "source_to_samples": s.source_to_samples,
        "fade_samples": s.fade_samples,
    }


def _s(samples: int, rate: int) -> float:
    return round(samples / rate, 6)
