"""Sentences about many things."""

from __future__ import annotations

from collections.abc import Sequence

MOST = 3


def some_of(words: Sequence[str], most: int = MOST) -> str:
    """The first few of some words, and how many more there are."""
    shown = ", ".join(words[:most])
    return f"{shown} and {len(words) - most} more" if len(words) > most else shown
