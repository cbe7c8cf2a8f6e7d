"""Hostile texts: JSON and TOML that nest without end, hold what no number is, or are no text."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

Document = dict[str, Any]
Change = Callable[[Document], object]
NAMES = (
    "two\nlines",
    "nul\x00inside",
    "\u202egnp.drac",
    "../../out",
    "C:\\windows",
    "con",
    "~root",
    "x" * 100_000,
    "\u0007bell\u001b[31m",
    "",
)
NUMBERS: tuple[Any, ...] = (1e308, -1e308, 10**18, 2**63, 2**70, -1, 0, "7", None, True, [], {})


def deep(opening: str, closing: str, count: int = 100_000) -> bytes:
    return (opening * count + closing * count).encode()


def broken_texts(whole: bytes) -> Iterator[tuple[str, bytes]]:
    """What is no document at all, or one that goes too deep."""
    yield "empty", b""
    yield "cut", whole[: len(whole) // 2]
    yield "zeros", b"\0" * 4096
    yield "bytes", bytes(range(256)) * 16
    yield "utf16", whole.decode().encode("utf-16")
    yield "deep lists", deep("[", "]")
    yield "deep objects", b'{"a":' * 100_000 + b"1" + b"}" * 100_000
    yield "deep and open", b"[" * 1_000_000
    yield "deep inside", whole.rstrip()[:-1] + b', "more": ' + deep("[", "]") + b"}"
    yield "not a number", whole.rstrip()[:-1] + b', "more": NaN}'
    yield "half a letter", whole.rstrip()[:-1] + b', "more": "\\ud800"}'
    yield "endless digits", whole.rstrip()[:-1] + b', "more": ' + b"9" * 100_000 + b"}"
    yield "a list", b"[1, 2, 3]"
    yield "a word", b'"fox"'


def changed(document: Document, changes: dict[str, Change]) -> Iterator[tuple[str, bytes]]:
    """The document with one thing in it made wrong."""
    for name, change in changes.items():
        copy = json.loads(json.dumps(document))
        change(copy)
        yield name, json.dumps(copy).encode()


def set_to(*path: str | int, value: object) -> Change:
    """Set something deep in a document."""

    def change(document: Document) -> None:
        place: Any = document
        for step in path[:-1]:
            place = place[step]
        place[path[-1]] = value

    return change


def each(*path: str | int, values: tuple[Any, ...]) -> dict[str, Change]:
    """A change for each of some values."""
    where = ".".join(map(str, path))
    return {f"{where} = {repr(v)[:24]}": set_to(*path, value=v) for v in values}
