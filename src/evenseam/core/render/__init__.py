"""From plan to sound: any stretch of it, at any time, the same samples each time."""

from evenseam.core.render.making import Shelf
from evenseam.core.render.mixdown import Mixdown, Recorded, at_rate, render_blocks
from evenseam.core.render.preview import Preview
from evenseam.core.render.programme import Bus, Clip, Programme, alone
from evenseam.core.render.renderer import Renderer

__all__ = [
    "Bus",
    "Clip",
    "Mixdown",
    "Preview",
    "Programme",
    "Recorded",
    "Renderer",
    "Shelf",
    "alone",
    "at_rate",
    "render_blocks",
]
