"""What arrays of pixels hold, by name, so that a mix-up shows where it happens.

All are float32 (..., 3) unless said otherwise.
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

# Values that passes work on: encoded with the sRGB curve and primaries (IEC 61966-2-1). 0..1 holds
# the colours of sRGB; those of wider profiles go beyond on either side.
Working: TypeAlias = NDArray[np.float32]
# Encoded with a picture's own profile, 0..1; as integers (uint8, uint16) in files.
Encoded: TypeAlias = NDArray[np.float32]
# Linear light, 0..1 in the gamut of its primaries.
Linear: TypeAlias = NDArray[np.float32]
# CIELAB (D65): L* 0..100, a*, b*.
Lab: TypeAlias = NDArray[np.float32]
