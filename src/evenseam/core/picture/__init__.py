"""Films: what they are, what is seen in them, and copies that browsers can play. Frames are counted from the first."""

from evenseam.core.picture.film import Film, measure, probe
from evenseam.core.picture.match import matched_shots
from evenseam.core.picture.scan import Scan, scan
from evenseam.core.picture.sound import extract_sound

__all__ = ["Film", "Scan", "extract_sound", "matched_shots", "measure", "probe", "scan"]
