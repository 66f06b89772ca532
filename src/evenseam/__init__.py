"""Even Seam: fits library music and score cues to picture."""

__version__ = "0.1.0"
