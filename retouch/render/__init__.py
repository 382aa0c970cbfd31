"""The incremental renderer."""

from retouch.cache import ByteCache
from retouch.render.changes import changed_region
from retouch.render.export import in_srgb, render_whole, resized
from retouch.render.renderer import Patch, Plan, Renderer, propose_source
from retouch.render.view import render_view

__all__ = [
    "ByteCache",
    "Patch",
    "Plan",
    "Renderer",
    "changed_region",
    "in_srgb",
    "propose_source",
    "render_view",
    "render_whole",
    "resized",
]
