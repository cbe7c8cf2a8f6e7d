"""Names of files and of sheets, and the order people expect them in."""

from __future__ import annotations

import itertools
import os
import re
import unicodedata
from collections.abc import Iterator
from pathlib import Path

from fox_hand.base.words import plain_name
from fox_hand.library.format.schema import SUFFIX

LONGEST = 80  # characters
LONGEST_BYTES = 200  # a file's name has 255 at most, and numbers and endings come after it
REFUSED = re.compile(r'[\s/\\:*?"<>|]+')
# names that mean a device on some systems, whatever comes after a dot (common practice, no source)
DEVICES = re.compile(r"(con|prn|aux|nul|com[0-9]|lpt[0-9])(?=\.|$)", re.IGNORECASE)


def natural(name: str) -> str:
    """A text that sorts ``fist 2`` before ``fist 10``."""
    return re.sub(r"\d+", lambda m: m[0].zfill(12), name.casefold())


def file_stem(name: str) -> str:
    """A card's or sheet's name as part of a path, on any file system: what some of them refuse
    or take for something else becomes a space or gets an underscore."""
    plain = REFUSED.sub(" ", plain_name(name)).strip().strip(".").lstrip("~").strip()
    plain = DEVICES.sub(lambda m: f"{m[0]}_", plain, count=1) if DEVICES.match(plain) else plain
    short = plain[:LONGEST]
    while len(short.encode()) > LONGEST_BYTES:
        short = short[:-1]
    return short.strip().strip(".")


def card_paths(folder: Path, name: str, own: Path | None = None) -> Iterator[Path]:
    """File names for a card in the order they are to be tried: ``fist``, ``fist 2``, ...

    A name that only differs in capitals or in how accents are written from one that is there is
    passed over: on some file systems the two would be one file.

    Args:
        folder: where it is to lie.
        name: the card's.
        own: its file now, which does not stand in its own way.
    """
    base = file_stem(name) or "card"
    there = _taken(folder, own)
    numbers = itertools.chain((f"{base}{SUFFIX}",), (f"{base} {n}{SUFFIX}" for n in _from_two()))
    for file in numbers:
        if same_name(file) not in there or (folder / file).exists():
            yield folder / file  # the one that is there refuses by itself


def _from_two() -> Iterator[int]:
    return itertools.count(2)


def same_name(name: str) -> str:
    """Equal for names that some file systems do not tell apart."""
    return unicodedata.normalize("NFC", name).casefold()


def _taken(folder: Path, own: Path | None) -> set[str]:
    try:
        names = os.listdir(folder)  # noqa: PTH208 - paths of 20,000 names would be made for nothing
    except OSError:
        return set()
    return {same_name(n) for n in names if own is None or folder / n != own}
