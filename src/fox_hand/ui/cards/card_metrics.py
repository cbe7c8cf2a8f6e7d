"""Sizes of a card that its painter and whoever lays cards out share."""

from __future__ import annotations

TAB, NAME = 6, 20  # pixels of the tab above a card's picture, and of its name below
