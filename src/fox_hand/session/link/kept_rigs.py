"""Descriptions of a host's rigs, written down as rigs of their own: cards find them, and what is
corrected about a rig stays."""

from __future__ import annotations

import contextlib
import hashlib
from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.interchange.sidecar import SUFFIX, Sidecar, read_sidecar, write_sidecar
from fox_hand.library.files.atomic import write_atomically

ORIGINAL = ".host"  # behind the name of what the host said itself
LONGEST, MARK = 40, 6  # letters of a name, and of what tells two of one name apart


def keep_description(
    folder: Path, host: str, rig: tuple[str, str], description: Any
) -> tuple[Path, Sidecar]:
    """Write a description down. While the host says the same, what was corrected here stays; when
    it says something else, only sets that were kept stay.

    Args:
        folder: of all hosts.
        host: its name.
        rig: its name, and the host's id of it.
        description: as the host gives it.

    Returns:
        where it lies, or would lie where it cannot be written: a link works without; and it, read.

    Raises:
        FoxHandError: if it is none.
    """
    name, identity = rig
    mark = hashlib.sha256(identity.encode("utf-8", "replace")).hexdigest()[:MARK]
    path = folder / plain_name(host) / f"{plain_name(name)}-{mark}{SUFFIX}"
    try:
        wanted = msgspec.convert(description, Sidecar)
    except msgspec.ValidationError as error:
        raise FoxHandError("link.description", str(error)) from error
    said = msgspec.json.encode(description)
    original = path.with_name(f"{path.name}{ORIGINAL}")
    try:
        before = read_sidecar(path)
        if original.read_bytes() == said:
            return path, before  # with what was corrected here
        wanted.sets = {**before.sets, **wanted.sets}
    except (FoxHandError, OSError):
        pass  # the first time, or it is damaged
    with contextlib.suppress(OSError, FoxHandError):
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, write_sidecar(wanted))
        write_atomically(original, said)
    return path, wanted


def plain_name(name: str) -> str:
    """A name of a file."""
    letters = "".join(c if c.isalnum() or c in "-_" else "-" for c in name.lower())
    return letters.strip("-")[:LONGEST] or "rig"
