"""Keys in a file of their own, for another machine or a colleague."""

from __future__ import annotations

from pathlib import Path

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json
from fox_hand.base.files.inputs import TEXT, read_file
from fox_hand.base.files.published import published
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import write_atomically

VERSION = 1
MOST = 4  # keys of one command


class KeyFile(msgspec.Struct):
    """Keys that differ from those that are shipped.

    ``keys`` names commands; each has its keys as ``Ctrl+Shift+S``, none where it has no key.
    """

    version: int = VERSION
    keys: dict[str, list[str]] = {}


def write_keys(path: Path, keys: dict[str, list[str]]) -> None:
    """Write them.

    Raises:
        FoxHandError: ``file.write``.
    """
    text = msgspec.json.format(msgspec.json.encode(KeyFile(keys=keys)), indent=1) + b"\n"
    write_atomically(path, text)


def read_keys(path: Path) -> dict[str, list[str]]:
    """Read them.

    Raises:
        FoxHandError: ``keys.unreadable`` or ``version.newer``.
    """
    try:
        found = decode_json(read_file(path, TEXT), KeyFile)
    except (OSError, ValueError) as error:
        raise FoxHandError(
            "keys.unreadable",
            tr("{name} holds no keys of Fox Hand.", name=path.name),
            tr("Your keys stay as they are."),
            tr("Choose a file that was made with Export."),
        ) from error
    if found.version > VERSION:
        raise FoxHandError(
            "version.newer",
            tr("{name} was made by a newer Fox Hand.", name=path.name),
            tr("Your keys stay as they are."),
            tr("Update Fox Hand to read it."),
        )
    return {name: keys[:MOST] for name, keys in found.keys.items()}


def json_schema() -> bytes:
    """The JSON Schema of the file."""
    return published(KeyFile, "Fox Hand keys")
