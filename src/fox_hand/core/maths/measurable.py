"""What counts as a number of a figure: one rule for all formats, asked at the door of each."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from fox_hand.base.files.documents import BEYOND


def measurable(*values: npt.ArrayLike) -> bool:
    """Whether all of them are numbers, and none is beyond all measure."""
    for group in values:
        array = np.asarray(group, dtype=np.float64)
        if not np.isfinite(array).all() or np.abs(array).max(initial=0.0) > BEYOND:
            return False
    return True
