"""Other picture: another one of the user's laid over this one: an earlier stage of it, a texture, a layer of its file."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Working
from retouch.finish import behind
from retouch.passes.of_picture import HEIGHT, WIDTH
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Pixels, Place, Values


def _laid(image: Working, values: Values, place: Place) -> Array:
    if not values["picture"]:
        # None is chosen yet.
        return place.own(image)
    assert place.others is not None
    other = place.others(str(values["picture"]))
    size = (float(values["wide_px"]), float(values["tall_px"]))
    return np.asarray(behind.covering(other, size, place.wanted, place.scale), np.float32)


OTHER_PICTURE = register(
    PassKind(
        name="other_picture",
        title="Other picture",
        meaning="Another of your pictures laid over this one, pixel on pixel if it is as large.",
        stage="look",
        settings=(
            Setting("picture", "Picture", "One of the portraits, laid over this one so that it covers all.",
                    type="picture", default=""),
        ),
        fitted=(HEIGHT, WIDTH),
        way=Pixels(_laid, open_ended=True),
    )
)  # fmt: skip
