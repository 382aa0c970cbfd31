"""What a hand is about to need, made before it moves.

The first move of a slider and the first stroke on a mask need what later ones find ready: the
picture below the pass, what the passes above it add, the areas of its mask. It is made while the
hand is still on its way.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Literal

import numpy as np

from retouch.edit.mask import MaskStroke
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.render import shows
from retouch.work.operations import ChangePass, Operation, PaintMask
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import desk, gestures
from studio.portraits.services.ahead import part_of
from studio.portraits.services.view_request import ViewRequest
from studio.portraits.services.viewing import checked

Hand = Literal["slider", "stroke"]

# One at a time: what the hand itself asks for mustn't wait for it.
_pool = ThreadPoolExecutor(1, thread_name_prefix="ready")


def make_ready(
    portrait: Portrait,
    request: ViewRequest,
    pass_id: str,
    hand: Hand,
    overtaken: Callable[[], bool] = lambda: False,
) -> Future[None]:
    """Begin to make what the next slider move or mask stroke of a pass needs in a view.

    It stops once ``overtaken()`` says so. Raises `Problem` if there is no such pass or view.
    """
    checked(portrait, request)
    one = desk.open_desk(portrait)
    acting = next((p for p in one.edit.passes if p.id == pass_id), None)
    if acting is None:
        raise Problem(404, "no_such_pass", "This pass is gone; somebody deleted it.")
    # What is made is the same for any move of that hand; this one is never seen.
    at = (
        request.x + request.width / request.scale / 2,
        request.y + request.height / request.scale / 2,
    )
    warp = desk.warp_of(portrait, one.edit)
    x, y = (float(v) for v in warp.to_original(np.array([at]))[0])
    operation: Operation = ChangePass(
        pass_id, strength=acting.strength + (1 if acting.strength < 50 else -1)
    )
    if hand == "stroke":
        operation = PaintMask(pass_id, MaskStroke(((x, y),), 1.0, softness=0.0, flow=1.0))
    edit = gestures.preview(portrait, one.renderer, one.edit, operation)
    plan = one.renderer.plan(edit, one.edit if hand == "slider" else None)
    part = request
    if hand == "stroke":
        left, top = int(at[0]), int(at[1])
        part = part_of(request, Rect(left, top, left + 1, top + 1)) or request
    seen, whole = (
        shows.grid_of(plan, r.x, r.y, r.scale, r.width, r.height) for r in (part, request)
    )

    def make() -> None:
        try:
            shows.seen(plan, seen, overtaken, around=whole if hand == "stroke" else None)
        except Cancelled:
            # The hand has gone elsewhere.
            return

    return _pool.submit(make)
