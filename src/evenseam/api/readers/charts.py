"""Charts to what goes out."""

from dataclasses import asdict

from evenseam.api.schemas.charts import ChartRead, ConfidenceRead, LoopRead, MarkRead
from evenseam.core.chart import Chart, Corrections, roles_of
from evenseam.core.chart.chart import finite, meter_name


def read_chart(chart: Chart, corrections: Corrections) -> ChartRead:
    """A chart as it is used, with what was corrected of it."""
    same = (
        "rate", "n_samples", "free_time", "tempo_bpm", "other_tempo_bpm", "beats_per_bar", "key",
        "music_start_samples", "music_end_samples",
        "trim_start_samples", "trim_end_samples", "opening_samples", "last_hit_samples", "ring_out_end_samples",
    )  # fmt: skip
    per_beat = {name: [round(float(v), 3) for v in getattr(chart, name)] for name in ("intensity", "voice", "lead")}
    return ChartRead.model_validate(
        {
            **{name: getattr(chart, name) for name in same},
            **per_beat,
            "corrected": list(corrections.parts),
            "pins": list(corrections.grid["pins"]) if corrections.grid else [],
            "marks": [MarkRead.model_validate(m) for m in corrections.marks],
            "meter": meter_name(chart),
            "confidence": ConfidenceRead.model_validate(chart.confidence),
            "loudness_lufs": finite(chart.loudness_lufs),
            "true_peak_dbtp": finite(chart.true_peak_dbtp),
            "beats": chart.beats.tolist(),
            "beat_in_bar": chart.beat_in_bar.tolist(),
            "sections": [
                {**asdict(section), "role": role} for section, role in zip(chart.sections, roles_of(chart), strict=True)
            ],
            "loops": [LoopRead.model_validate(x) for x in chart.loops],
        }
    )
