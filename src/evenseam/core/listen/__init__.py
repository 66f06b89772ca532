"""What is heard in a track: beats, bars, sections, opening and ending."""

from evenseam.core.listen.chart import CHART_VERSION, Chart, Section, Span
from evenseam.core.listen.listen import listen

__all__ = ["CHART_VERSION", "Chart", "Section", "Span", "listen"]
