"""Raw files written from linear data with a library: for the demo, and for tests.

``python -m demo.raw`` writes the demo's own.
"""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
import tifffile

from retouch.colour.depth import to_integers
from retouch.colour.transfer import to_encoded, to_linear
from retouch.colour.white import Light, adaptation, own_light, xyz_of
from retouch.picture import read
from retouch.warp.frame import Wish, framed
from retouch.warp.resample import nodes, resampled

# The photometric interpretation of a mosaic (TIFF/EP, ISO 12234-2).
_MOSAIC = 32803
# The lamp is warmer than what the camera was set to: the picture has a warm cast.
_PERSON, _TILT, _LAMP, _SET = "kofi", 3.0, Light(4100.0, 0.002), Light(5300.0, 0.003)

# From XYZ to linear sRGB: the "camera" sees as the standard does (IEC 61966-2-1).
STANDARD = np.linalg.inv(
    np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
)
# A camera of nobody's, its channels overlapping as filters do.
OVERLAPPING = np.array([[0.63, -0.05, -0.10], [-0.60, 1.45, 0.17], [-0.12, 0.22, 0.70]])


def dng(
    camera: np.ndarray,
    neutral: tuple[float, float, float] = (1.0, 1.0, 1.0),
    matrix: np.ndarray = STANDARD,
    turn: int = 1,
    preview: np.ndarray | None = None,
) -> bytes:
    """A DNG of a mosaic (Adobe DNG specification 1.7; tags from memory).

    Parameters
    ----------
    camera : ndarray (h, w, 3)
        Linear light of the camera's channels, 0..1; even sides.
    neutral : (r, g, b)
        What the camera takes for neutral.
    matrix : ndarray (3, 3)
        From XYZ to the camera's channels (D65).
    turn : int
        EXIF orientation.
    preview : ndarray (h, w, 3) uint8, optional
        A small picture that the file brings, sRGB.
    """
    codes = np.clip(camera * 65535 + 0.5, 0, 65535).astype(np.uint16)
    mosaic = np.empty(codes.shape[:2], np.uint16)
    for y, x, k in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
        mosaic[y::2, x::2] = codes[y::2, x::2, k]

    def ratios(values: object) -> list[int]:
        flat = np.ravel(np.asarray(values, np.float64))
        return [int(n) for v in flat for n in (round(v * 1_000_000), 1_000_000)]

    about = [
        (271, 2, 0, "Mellow Glass", True), (272, 2, 0, "Made-up camera", True),
        (274, 3, 1, turn, True), (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50707, 1, 4, bytes([1, 1, 0, 0]), True), (50708, 2, 0, "Mellow Glass made-up camera", True),
        (50721, 10, 9, ratios(matrix), True), (50728, 5, 3, ratios(neutral), True),
        (50778, 3, 1, 21, True),
    ]  # fmt: skip
    own = [
        (33421, 3, 2, (2, 2), True), (33422, 1, 4, bytes([0, 1, 1, 2]), True),
        (50714, 5, 1, (0, 1), True), (50717, 4, 1, 65535, True),
    ]  # fmt: skip
    out = io.BytesIO()
    with tifffile.TiffWriter(out) as file:
        if preview is None:
            file.write(
                mosaic, photometric=_MOSAIC, extratags=about + own, metadata=None, subfiletype=0
            )
        else:
            file.write(
                preview, photometric="rgb", compression="jpeg", compressionargs={"level": 85},
                extratags=about, metadata=None, subfiletype=1, subifds=1, rowsperstrip=len(preview),
            )  # fmt: skip
            file.write(mosaic, photometric=_MOSAIC, extratags=own, metadata=None, subfiletype=0)
    return out.getvalue()


def demo() -> bytes:
    """A raw file of a demo person: a warm lamp, the camera held 3 degrees askew."""
    picture = read(Path(__file__).parent / "portraits" / f"{_PERSON}.jpg")
    # The camera was turned, so the picture is: counter-clockwise, and what it can't show is cut off.
    turned = framed(Wish(angle=-_TILT), picture.bounds).warp
    at = nodes(turned.to_original, (0, 0), (turned.width, turned.height), 1.0)
    straight = resampled(picture.space.to_working(picture.pixels), (0.0, 0.0), at)
    straight = straight[: straight.shape[0] // 2 * 2, : straight.shape[1] // 2 * 2]
    # A lens and the filter before a sensor soften a little, or the mosaic would show colours of its own.
    soft = cv2.GaussianBlur(to_linear(np.clip(straight, 0, 1)), (0, 0), 0.7)
    linear = soft.astype(np.float64)
    # In the lamp's light, as the camera sees it.
    cast = linear @ np.linalg.inv(adaptation(_LAMP, own_light())).T
    camera = np.maximum(cast @ np.linalg.inv(STANDARD).T @ OVERLAPPING.T, 0)
    r, g, b = (float(v) for v in OVERLAPPING @ xyz_of(_SET))
    most = max(r, g, b)
    camera = camera / (1.05 * np.quantile(camera, 0.9995))
    # Photons come one by one: the variance of noise is in proportion to the light.
    rng = np.random.default_rng(7)
    camera = camera + rng.standard_normal(camera.shape) * np.sqrt(camera / 24_000 + 4e-7)
    small = cv2.resize(
        np.asarray(to_encoded(np.clip(cast, 0, 1).astype(np.float32))),
        None,
        fx=0.4,
        fy=0.4,
        interpolation=cv2.INTER_AREA,
    )
    preview = np.asarray(to_integers(np.clip(small, 0, 1), 8))
    neutral = (r / most, g / most, b / most)
    return dng(np.clip(camera, 0, 1), neutral, OVERLAPPING, preview=preview)


if __name__ == "__main__":
    (Path(__file__).parent / "portraits" / f"{_PERSON}-raw.dng").write_bytes(demo())
