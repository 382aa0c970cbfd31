"""Raw files for tests, and for the demo: DNGs written from linear data with a library."""

from __future__ import annotations

import io

import numpy as np
import tifffile

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
    """
    codes = np.clip(camera * 65535 + 0.5, 0, 65535).astype(np.uint16)
    mosaic = np.empty(codes.shape[:2], np.uint16)
    for y, x, k in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
        mosaic[y::2, x::2] = codes[y::2, x::2, k]

    def ratios(values: object) -> list[int]:
        flat = np.ravel(np.asarray(values, np.float64))
        return [int(n) for v in flat for n in (round(v * 1_000_000), 1_000_000)]

    tags = [
        (271, 2, 0, "Mellow Glass", True), (272, 2, 0, "Made-up camera", True),
        (274, 3, 1, turn, True), (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, bytes([0, 1, 1, 2]), True), (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50707, 1, 4, bytes([1, 1, 0, 0]), True), (50708, 2, 0, "Mellow Glass made-up camera", True),
        (50714, 5, 1, (0, 1), True), (50717, 4, 1, 65535, True),
        (50721, 10, 9, ratios(matrix), True), (50728, 5, 3, ratios(neutral), True),
        (50778, 3, 1, 21, True),
    ]  # fmt: skip
    out = io.BytesIO()
    tifffile.imwrite(out, mosaic, photometric=32803, extratags=tags, metadata=None, subfiletype=0)
    return out.getvalue()
