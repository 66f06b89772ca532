"""From plan to sound: any stretch of it, at any time, the same samples each time."""

from evenseam.core.render.renderer import Renderer, SpanCache, render_blocks

__all__ = ["Renderer", "SpanCache", "render_blocks"]
