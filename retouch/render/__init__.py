"""The incremental renderer: views, files and all else that shows an edit, from what is known already."""

from retouch.memory import Memory
from retouch.render.changes import changed_region
from retouch.render.export import as_passes_made, in_srgb, render_whole, resized
from retouch.render.plan import Plan
from retouch.render.proposing import propose_source
from retouch.render.renderer import Renderer
from retouch.render.stock import Patch
from retouch.render.view import render_view

__all__ = [
    "Memory",
    "Patch",
    "Plan",
    "Renderer",
    "as_passes_made",
    "changed_region",
    "in_srgb",
    "propose_source",
    "render_view",
    "render_whole",
    "resized",
]
