"""A short mark of a rig's structure, stored in cards."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

from fox_hand.core.controls import Control, Setting


def fingerprint(controls: Iterable[Control], settings: Iterable[Setting]) -> str:
    """Sixteen hex digits that change when the rig's controls or settings change."""
    text = "\n".join([*(c.name for c in controls), "", *(s.name for s in settings)])
    return hashlib.sha256(text.encode()).hexdigest()[:16]
