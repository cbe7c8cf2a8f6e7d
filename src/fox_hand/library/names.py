"""Names of files and of sheets, and the order people expect them in."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from pathlib import Path

from fox_hand.library.schema import SUFFIX

LONGEST = 80


def natural(name: str) -> str:
    """A text that sorts ``fist 2`` before ``fist 10``."""
    return re.sub(r"\d+", lambda m: m[0].zfill(12), name.casefold())


def file_stem(name: str) -> str:
    """A card's or sheet's name as part of a path: what file systems refuse becomes a space."""
    plain = re.sub(r'[\s\x00-\x1f/\\:*?"<>|]+', " ", name).strip().strip(".")
    return plain[:LONGEST].strip()


def card_paths(folder: Path, name: str) -> Iterator[Path]:
    """File names for a card in the order they are to be tried: ``fist``, ``fist 2``, ..."""
    base = file_stem(name) or "card"
    yield folder / f"{base}{SUFFIX}"
    for number in itertools.count(2):
        yield folder / f"{base} {number}{SUFFIX}"
