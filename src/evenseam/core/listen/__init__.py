"""What is heard in a track: beats, bars, sections, opening and ending; and charts made anew from what a person put right."""

from evenseam.core.listen.correcting import corrected, tapped
from evenseam.core.listen.features.intake import Intake, TakingIn, take_in
from evenseam.core.listen.heard import Heard
from evenseam.core.listen.listen import chart_of, hear_and_chart, listen, listen_to_file

__all__ = [
    "Heard",
    "Intake",
    "TakingIn",
    "chart_of",
    "corrected",
    "hear_and_chart",
    "listen",
    "listen_to_file",
    "take_in",
    "tapped",
]
