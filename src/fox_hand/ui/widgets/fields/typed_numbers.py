"""Numbers that somebody types: which one is meant, and a word where it cannot be had."""

from __future__ import annotations

import math

from fox_hand.base.language import shown_number, tr


def typed_number(text: str, unit: str = "") -> float | None:
    """The number in a field.

    Args:
        text: as typed, with a comma or a point, with or without its unit.
        unit: that may stand after it.

    Returns:
        None for what is no number or has no end.
    """
    plain = text.strip().removesuffix(unit.strip()).replace(",", ".")
    try:
        value = float(plain)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def bent(what: str, wanted: float, low: float, high: float, unit: str = "") -> str:
    """A sentence about a number beyond its range, of which the nearest counts; empty within it."""
    if low - 1e-9 <= wanted <= high + 1e-9:
        return ""
    nearest = min(max(wanted, low), high)
    ends = tr("from {plain} to {plain_2}{unit}", plain=plain(low), plain_2=plain(high), unit=unit)
    return tr(
        "{what} goes {ends}; it is {plain}{unit} now.",
        what=what,
        ends=ends,
        plain=plain(nearest),
        unit=unit,
    )


def plain(value: float) -> str:
    """A number in digits alone, with up to three after the point."""
    return shown_number(value, 3)
