"""Everything a person does to card files, each with its way back.

What is done gives a :class:`Done` that undoes it, and undoing gives one that does it again. Paths
change on the way (a name may be taken meanwhile), so each knows its own.
"""

from __future__ import annotations

import contextlib
import uuid
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.core.matching.name_match import Rules
from fox_hand.core.matching.renaming import renamed, renamed_clip
from fox_hand.core.pose.pose import Pose
from fox_hand.library.files.atomic import remove, write_atomically
from fox_hand.library.format.card import Card
from fox_hand.library.format.container import changed_bytes, read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.head import read_head
from fox_hand.library.store.conflicts import (
    Conflict,
    keep_both,
    set_aside,
    take_early,
    take_late,
)
from fox_hand.library.store.store import Library
from fox_hand.library.store.twins import keep_on_purpose

Words = Callable[[Card], Card]


@dataclass(frozen=True)
class Done:
    """Something that was done to files.

    Args:
        library: whose.
        touched: files that appeared, changed or went.
        undo: takes it back.
        path: where the card lies now; None if it is gone.
        whole: more than a few files changed, so that all must be looked at.
    """

    library: Library
    touched: tuple[Path, ...]
    undo: Callable[[], Done]
    path: Path | None = None
    whole: bool = False


def added(library: Library, path: Path) -> Done:
    """A card was just written there."""
    return Done(library, (path,), lambda: take_out(library, path), path)


def take_out(library: Library, path: Path) -> Done:
    """Into the library's keep."""
    kept = library.take_out(path)
    return Done(library, (path,), lambda: bring_back(library, kept, path))


def bring_back(library: Library, kept: Path, wish: Path | None = None) -> Done:
    """Out of the library's keep."""
    return added(library, library.bring_back(kept, wish))


def move(library: Library, path: Path, sheet: str, wish: Path | None = None) -> Done:
    """Into another sheet of the same library. On the way back a file gets the very name it had,
    or the steps before would not find it."""
    before = path.parent.relative_to(library.folder).as_posix()
    moved = library.move(path, sheet, wish)
    back = "" if before == "." else before
    return Done(library, (path, moved), lambda: move(library, moved, back, path), moved)


def copy(library: Library, source: Path, sheet: str, *, own: bool = True) -> Done:
    """A copy of any card file into a sheet; see :meth:`Library.copy_in`."""
    return added(library, library.copy_in(source, sheet, own=own))


def rename(library: Library, path: Path, name: str, wish: Path | None = None) -> Done:
    """Another name for a card and its file."""
    entry = current(library, path)
    named = library.rename(entry, name, wish)
    return Done(library, (path, named), lambda: rename(library, named, entry.name, path), named)


def reword(library: Library, entry: Entry, change: Words, *, even_locked: bool = False) -> Done:
    """Change the words of a card: tags, note, author, licence, lock."""
    before = library.rewrite(entry, change, even_locked=even_locked)

    def back() -> Done:
        latest = current(library, entry.path)
        return reword(library, latest, lambda card: _words_of(before, card), even_locked=True)

    return Done(library, (entry.path,), back, entry.path)


def _words_of(before: Card, card: Card) -> Card:
    return replace(
        card,
        tags=before.tags,
        note=before.note,
        author=before.author,
        licence=before.licence,
        region=before.region,
        side=before.side,
        approved_by=before.approved_by,
        approved_at=before.approved_at,
    )


def repicture(
    library: Library,
    entry: Entry,
    card: Card,
    picture: bytes | None,
    large: bytes | None,
    motion: bytes | None = None,
) -> Done:
    """Another picture, with the frame and style it was taken with; the pose stays."""

    def change(current: Card) -> Card:
        return replace(
            current,
            frame=card.frame,
            anchor=card.anchor,
            around=card.around,
            style=card.style,
            ground=card.ground,
            own_picture=card.own_picture,
        )

    library.rewrite(entry, change, pictures=(picture, large, motion))
    kept = library.versions(entry.identity)[-1]
    return Done(library, (entry.path,), lambda: use_version(library, entry.path, kept), entry.path)


def rename_controls(library: Library, entry: Entry, rules: Rules) -> Done:
    """Other names for the controls of a card; the file before becomes an earlier version."""

    def change(card: Card) -> Card:
        clip = renamed_clip(card.clip, rules) if card.clip is not None else None
        anchor, around = card.anchor, Pose({})
        if anchor is not None:
            anchor = replace(anchor, control=rules.applied(anchor.control))
        with contextlib.suppress(FoxHandError):  # what is around matters for its picture only
            around = renamed(card.around, rules)
        pulled = {
            end: tuple(rules.applied(name) for name in names)
            for end, names in card.carried.pulled.items()
        }
        carried = replace(card.carried, pulled=pulled)
        pose = renamed(card.pose, rules)
        return replace(card, pose=pose, clip=clip, around=around, anchor=anchor, carried=carried)

    library.rewrite(entry, change, keep=True)
    kept = library.versions(entry.identity)[-1]
    return Done(library, (entry.path,), lambda: use_version(library, entry.path, kept), entry.path)


def store_over(
    library: Library,
    entry: Entry,
    card: Card,
    picture: bytes | None,
    large: bytes | None = None,
    motion: bytes | None = None,
) -> Done:
    """Another pose for a card; the one before becomes an earlier version."""
    library.replace(entry, card, picture, large, motion)
    kept = library.versions(entry.identity)[-1]
    return Done(library, (entry.path,), lambda: use_version(library, entry.path, kept), entry.path)


def use_version(library: Library, path: Path, version: Path) -> Done:
    """An earlier version once more, pictures included; what was there becomes one as well."""
    entry = current(library, path)
    data = _again(library, version, entry)
    with library.lock():
        card, _ = read_card(path)
        library.approval.check(path)
        library.keep_version(path, card)
        write_atomically(path, data)
    kept = library.versions(entry.identity)[-1]
    return Done(library, (path,), lambda: use_version(library, path, kept), path)


def _again(library: Library, version: Path, entry: Entry) -> bytes:
    """A version's file as the next revision of the card."""
    card, _ = read_card(version)
    next_one = replace(card, identity=entry.identity, revision=entry.revision + 1)
    return changed_bytes(version, library.signed(next_one))


def current(library: Library, path: Path) -> Entry:
    """A card as it lies on disk now.

    Raises:
        FoxHandError: if it cannot be read.
    """
    sheet = path.parent.relative_to(library.folder).as_posix()
    entry = read_head(path, "" if sheet == "." else sheet).entry
    if entry.error is not None:
        raise entry.error
    return entry


def use_copy(library: Library, damaged: Path, version: Path) -> Done:
    """A whole copy in the place of a file that cannot be read; that goes into the keep as it is."""
    card, _ = read_card(version)
    data = changed_bytes(version, library.signed(replace(card, revision=card.revision + 1)))
    kept = library.exchange(damaged, data)

    def back() -> Done:
        library.take_out(damaged)
        library.bring_back(kept, damaged)
        return Done(library, (damaged,), lambda: use_copy(library, damaged, version), damaged)

    return Done(library, (damaged,), back, damaged)


def variant(library: Library, version: Path, beside: Path, name: str) -> Done:
    """An earlier version as a card of its own, next to the card it was."""
    card, _ = read_card(version)
    own = replace(
        card,
        name=name,
        identity=uuid.uuid4().hex,
        revision=1,
        approved_by="",
        approved_at="",
    )
    sheet = beside.parent.relative_to(library.folder).as_posix()
    data = changed_bytes(version, library.signed(own))
    return added(library, library.add_bytes(data, name, "" if sheet == "." else sheet))


def make_own(library: Library, path: Path) -> Done:
    """A new identity for a file that was copied outside the program."""
    return with_identity(library, path, uuid.uuid4().hex)


def with_identity(library: Library, path: Path, identity: str) -> Done:
    """Another identity for a card."""
    with library.lock():
        card, _ = read_card(path)
        new = library.signed(replace(card, identity=identity))
        write_atomically(path, changed_bytes(path, new))
    return Done(library, (path,), lambda: with_identity(library, path, card.identity), path)


def revive(library: Library, version: Path) -> Done:
    """A card that is gone comes back, loose, as an earlier version of it was."""
    card, _ = read_card(version)
    data = changed_bytes(version, library.signed(replace(card, revision=card.revision + 1)))
    return added(library, library.add_bytes(data, card.name, ""))


def keep_twins(library: Library, first: str, second: str, *, kept: bool) -> Done:
    """Two cards are meant to be alike, or are not any more."""
    keep_on_purpose(library, first, second, kept=kept)
    return Done(library, (), lambda: keep_twins(library, first, second, kept=not kept))


def settle_both(library: Library, conflict: Conflict, beside: Path | None) -> Done:
    """Two people, one card: both stay, the late one as a card of its own."""
    data = conflict.path.read_bytes()
    made = keep_both(library, conflict, beside)

    def back() -> Done:
        again = _waits_again(library, conflict, data)
        library.take_out(made)
        return Done(library, (made,), lambda: settle_both(library, again, beside))

    return Done(library, (made,), back, made)


def settle_late(library: Library, conflict: Conflict, path: Path) -> Done:
    """Two people, one card: the late version counts."""
    data = conflict.path.read_bytes()
    take_late(library, conflict, path)
    kept = library.versions(conflict.identity)[-1]

    def back() -> Done:
        again = _waits_again(library, conflict, data)
        use_version(library, path, kept)
        return Done(library, (path,), lambda: settle_late(library, again, path), path)

    return Done(library, (path,), back, path)


def settle_early(library: Library, conflict: Conflict, path: Path) -> Done:
    """Two people, one card: the one in the sheet counts; the late one becomes a version."""
    data = conflict.path.read_bytes()
    kept = take_early(library, conflict, path)

    def back() -> Done:
        again = _waits_again(library, conflict, data)
        remove(kept)
        return Done(library, (path,), lambda: settle_early(library, again, path), path)

    return Done(library, (path,), back, path)


def _waits_again(library: Library, conflict: Conflict, data: bytes) -> Conflict:
    """The late version waits for a choice once more."""
    return replace(conflict, path=set_aside(library, conflict.identity, data))
