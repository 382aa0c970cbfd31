"""The whole picture, small."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit
from retouch.render import Renderer, render_view


def small_picture(renderer: Renderer, edit: Edit, long_side: int) -> NDArray[np.uint8]:
    """The framed picture, so long at most, as the screen shows it."""
    plan = renderer.plan(edit)
    width, height = plan.warp.width, plan.warp.height
    scale = min(1.0, long_side / max(width, height))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    return render_view(plan, 0, 0, scale, *size)
