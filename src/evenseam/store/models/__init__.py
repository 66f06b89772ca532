"""Tables, by subject. Times are UTC with microseconds; lengths of music on the picture are flicks, positions on it frames."""

from evenseam.store.models.base import Base, now
from evenseam.store.models.cues import Brief, Cue, CueSeam, Fit
from evenseam.store.models.history import Patch, UndoStep
from evenseam.store.models.jobs import Event, Job
from evenseam.store.models.library import Recording, Refusal, Track
from evenseam.store.models.pictures import Film, Picture, PictureMix, PictureSheet
from evenseam.store.models.productions import Production

__all__ = [
    "Base",
    "Brief",
    "Cue",
    "CueSeam",
    "Event",
    "Film",
    "Fit",
    "Job",
    "Patch",
    "Picture",
    "PictureMix",
    "PictureSheet",
    "Production",
    "Recording",
    "Refusal",
    "Track",
    "UndoStep",
    "now",
]
