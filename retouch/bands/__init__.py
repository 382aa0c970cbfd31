"""The picture in bands of detail by size, and in two parts, tone and detail."""

from retouch.bands.decompose import (
    BANDS,
    LIMITS_MM,
    PARTS,
    TITLES,
    Sizes,
    band,
    margin,
    split,
)

__all__ = ["BANDS", "LIMITS_MM", "PARTS", "TITLES", "Sizes", "band", "margin", "split"]
