"""Which points of the mesh outline what. "R" and "L" are the person's own right and left."""

from __future__ import annotations

OVAL = (
    10, 338, 297, 332, 284, 251, 389, 356, 454, 323, 361, 288, 397, 365, 379, 378, 400, 377, 152,
    148, 176, 149, 150, 136, 172, 58, 132, 93, 234, 127, 162, 21, 54, 103, 67, 109,
)  # fmt: skip
LIPS_OUT = (
    61, 185, 40, 39, 37, 0, 267, 269, 270, 409, 291, 375, 321, 405, 314, 17, 84, 181, 91, 146,
)  # fmt: skip
LIPS_IN = (
    78, 191, 80, 81, 82, 13, 312, 311, 310, 415, 308, 324, 318, 402, 317, 14, 87, 178, 88, 95,
)  # fmt: skip
EYE_R = (33, 246, 161, 160, 159, 158, 157, 173, 133, 155, 154, 153, 145, 144, 163, 7)
EYE_L = (263, 466, 388, 387, 386, 385, 384, 398, 362, 382, 381, 380, 374, 373, 390, 249)
IRIS_R, IRIS_L = 468, 473
BROW_R = (70, 63, 105, 66, 107, 55, 65, 52, 53, 46)
BROW_L = (300, 293, 334, 296, 336, 285, 295, 282, 283, 276)
# Below the eye, and beside the nose at its inner corner, where the skin is as thin.
UNDER_R = (
    33, 7, 163, 144, 145, 153, 154, 155, 133, 243, 193, 122, 188, 114, 47, 120, 119, 118, 117,
    111, 35,
)  # fmt: skip
UNDER_L = (
    263, 249, 390, 373, 374, 380, 381, 382, 362, 463, 417, 351, 412, 343, 277, 349, 348, 347, 346,
    340, 265,
)  # fmt: skip
NOSE = (
    168, 193, 245, 188, 174, 217, 198, 209, 49, 48, 64, 98, 97, 2, 326, 327, 294, 278, 279, 429,
    420, 437, 399, 412, 465, 417,
)  # fmt: skip
NOSTRIL_R = (79, 166, 75, 60, 20, 238)
NOSTRIL_L = (309, 392, 305, 290, 250, 458)
# The outer and the inner corners of the eyes; the sides of the face; the hairline's middle and the chin.
CORNER_R, CORNER_L = 33, 263
INNER_R, INNER_L = 133, 362
CORNERS = (CORNER_R, CORNER_L, INNER_R, INNER_L)
SIDE_R, SIDE_L = 234, 454
TOP, CHIN = 10, 152
# The bridge of the nose, between the eyes and below; its base, between the nostrils.
BETWEEN_EYES, BRIDGE, NOSE_BASE = 168, 6, 2
# The middles of the lips where they meet.
LIP_UPPER, LIP_LOWER = 13, 14
# Lines of the mesh along which skin folds: from the wing of the nose past the corner of the mouth,
# around the wing, across the chin, at the corner of the mouth, below the eye and beside it.
_FOLDS_R = (
    (131, 129, 203, 206, 216, 57, 202, 211), (131, 49, 64, 98, 97, 2), (204, 194, 201, 200),
    (57, 61, 43), (35, 31, 228, 229, 230, 231, 232, 233, 244), (226, 130, 25),
)  # fmt: skip
_FOLDS_L = (
    (360, 358, 423, 426, 436, 287, 422, 431), (360, 279, 294, 327, 326, 2), (424, 418, 421, 200),
    (287, 291, 273), (265, 261, 448, 449, 450, 451, 452, 453, 464), (446, 359, 255),
)  # fmt: skip
FOLDS = _FOLDS_R + _FOLDS_L
