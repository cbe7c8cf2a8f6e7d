"""Two people, one card: the later one's version waits beside the library until somebody chooses."""

from __future__ import annotations

import contextlib
import uuid
from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import make_folder, remove, write_atomically, write_new
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import changed_bytes, read_card
from fox_hand.library.format.names import card_paths, file_stem
from fox_hand.library.format.schema import SUFFIX
from fox_hand.library.store.store import Library


@dataclass(frozen=True)
class Conflict:
    """A version of a card that came too late.

    Args:
        path: its file.
        identity: of the card both changed.
        card: the late version; its author and time say whose it is.
    """

    path: Path
    identity: str
    card: Card


def set_aside(library: Library, identity: str, data: bytes) -> Path:
    """Keep a version that would have replaced somebody else's work.

    Raises:
        FoxHandError: ``file.write``.
    """
    folder = library.own / "conflicts" / file_stem(identity)
    make_folder(folder)
    with library.lock():
        return write_new(card_paths(folder, uuid.uuid4().hex), data)


def conflicts(library: Library) -> list[Conflict]:
    """All that wait for a choice; files that cannot be read are left out."""
    found = []
    for path in sorted((library.own / "conflicts").glob(f"*/*{SUFFIX}")):
        with contextlib.suppress(FoxHandError):
            card, _ = read_card(path)
            found.append(Conflict(path, path.parent.name, card))
    return found


def keep_both(library: Library, conflict: Conflict, beside: Path | None) -> Path:
    """The late version becomes a card of its own, next to the other."""
    card = conflict.card
    name = f"{card.name} ({card.author})" if card.author else f"{card.name} (other)"
    own = library.signed(replace(card, name=name, identity=uuid.uuid4().hex, revision=1))
    folder = beside.parent if beside is not None else library.folder
    with library.lock():
        made = write_new(card_paths(folder, name), changed_bytes(conflict.path, own))
    settle(conflict)
    return made


def take_late(library: Library, conflict: Conflict, path: Path) -> None:
    """The late version becomes the card; what lies there becomes an earlier version."""
    library.approval.check(path)
    with library.lock():
        current, _ = read_card(path)
        library.keep_version(path, current)
        new = replace(
            conflict.card,
            identity=current.identity,
            created=current.created,
            revision=current.revision + 1,
        )
        write_atomically(path, changed_bytes(conflict.path, library.signed(new)))
    settle(conflict)


def take_early(library: Library, conflict: Conflict, path: Path) -> Path:
    """The card stays; the late version goes to its earlier versions, so that it is not lost.
    Returns where it lies."""
    folder = library.own / "versions" / file_stem(conflict.identity)
    make_folder(folder)
    with library.lock():
        current, _ = read_card(path)
        stem = tr("{revision:04} not taken", revision=current.revision)
        kept = write_new(card_paths(folder, stem), changed_bytes(conflict.path, conflict.card))
    settle(conflict)
    return kept


def settle(conflict: Conflict) -> None:
    """The choice is made: what waited can go."""
    remove(conflict.path)
    with contextlib.suppress(OSError):
        conflict.path.parent.rmdir()
