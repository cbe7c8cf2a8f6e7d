"""What counts as a number of a figure: one rule for all formats, asked at the door of each."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

BEYOND = 1e9  # units, degrees or times: nothing that is drawn is as large


def measurable(*values: npt.ArrayLike) -> bool:
    """Whether all of them are numbers, and none is beyond all measure."""
    for group in values:
        array = np.asarray(group, dtype=np.float64)
        if not np.isfinite(array).all() or np.abs(array).max(initial=0.0) > BEYOND:
            return False
    return True
