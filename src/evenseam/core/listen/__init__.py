"""What is heard in a track: beats, bars, sections, opening and ending."""

from evenseam.core.listen.chart import CHART_VERSION, Chart, Confidence, Section, Span
from evenseam.core.listen.heard import Heard
from evenseam.core.listen.intake import Intake, TakingIn, take_in
from evenseam.core.listen.listen import chart_of, hear_and_chart, listen, listen_to_file

__all__ = [
    "CHART_VERSION",
    "Chart",
    "Confidence",
    "Heard",
    "Intake",
    "Section",
    "Span",
    "TakingIn",
    "chart_of",
    "hear_and_chart",
    "listen",
    "listen_to_file",
    "take_in",
]
