"""What is said of a marked frame."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class FrameName:
    """What the card of a frame is to be called, and where it goes.

    Args:
        name: of the card.
        sheet: its sheet.
    """

    name: str
    sheet: str
