"""``<name>.foxpack``: cards and their sheets in one file, to be sent and taken in elsewhere."""

from __future__ import annotations

import contextlib
import hashlib
import io
import uuid
import zipfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files import inputs
from fox_hand.base.files.archive import BROKEN, opened_archive, read_member, why_broken
from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import read_file
from fox_hand.base.files.outputs import keep_inputs
from fox_hand.base.files.published import published
from fox_hand.base.files.scratch import scratch_folder
from fox_hand.base.files.versions import Step, upgrade
from fox_hand.base.language import tr
from fox_hand.base.words import plain_name
from fox_hand.base.work import Progress
from fox_hand.library.files.atomic import write_atomically
from fox_hand.library.format.container import changed_bytes, read_card, read_motion, read_picture
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.names import file_stem
from fox_hand.library.format.schema import SUFFIX as CARD
from fox_hand.library.store import moves
from fox_hand.library.store.moves import Done
from fox_hand.library.store.pack_extras import (
    NO_EXTRAS,
    Extras,
    PackedSheet,
    Write,
    packed_maps,
    packed_rigs,
    packed_sheets,
    take_extras,
)
from fox_hand.library.store.store import Library

FORMAT, VERSION = "fox-hand pack", 1
MIMETYPE = b"application/vnd.fox-hand.pack+zip"
SUFFIX = ".foxpack"
STEPS: dict[int, Step] = {}  # how to lift an older version by one; version 1 is the first
MOST_MEMBERS = 200_000
LIST_LARGEST = 64 << 20
KEPT = tr("The file was left as it is.")


class PackedCard(msgspec.Struct, omit_defaults=True):
    """One card of a pack: which member of the ZIP it is, and what a list says of it."""

    file: str
    id: str
    name: str
    revision: int = 1
    sheet: str = ""
    author: str = ""
    kind: str = "pose"


class PackFile(msgspec.Struct, omit_defaults=True):
    """``pack.json``."""

    format: Literal["fox-hand pack"]
    version: Annotated[int, msgspec.Meta(ge=1)]
    name: str
    cards: list[PackedCard]
    author: str = ""
    sheets: list[PackedSheet] = []
    maps: list[str] = []
    rigs: list[str] = []


class News(StrEnum):
    """What a card of a pack is to a library."""

    NEW = "new"
    SAME = "same"
    DIFFERENT = "different"


class TakeIn(StrEnum):
    """What is done with a card of a pack."""

    LEAVE = "leave"
    ADD = "add"
    THEIRS = "theirs"
    BOTH = "both"


@dataclass(frozen=True)
class Offer:
    """A card of a pack beside what the library has.

    Args:
        card: what the pack says of it.
        news: whether it is there already.
        path: the library's own card of the same identity.
        own_revision: and its revision.
        reworded: its name or its sheet held what cannot be seen or cannot be a name, and was
            changed.
    """

    card: PackedCard
    news: News
    path: Path | None = None
    own_revision: int = 0
    reworded: bool = False

    @property
    def usual(self) -> TakeIn:
        """What is done if nobody says anything: nothing of one's own is touched."""
        return {News.NEW: TakeIn.ADD, News.SAME: TakeIn.LEAVE, News.DIFFERENT: TakeIn.BOTH}[
            self.news
        ]


def write_pack(
    path: Path,
    name: str,
    entries: Sequence[Entry],
    *,
    author: str = "",
    extras: Extras = NO_EXTRAS,
    progress: Progress | None = None,
) -> int:
    """Write some cards as a pack, with what their sheets say; returns how many. Damaged cards are
    left out.

    Raises:
        FoxHandError: ``pack.empty``, ``file.write``, ``output.is_input``.
        Cancelled: if somebody asked to stop.
    """
    keep_inputs(path, (*(e.path for e in entries), *extras.sidecars))
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:

        def write(member: str, data: bytes) -> None:
            archive.writestr(_member(member), data)

        write("mimetype", MIMETYPE)
        listed = _packed_cards([e for e in entries if e.readable], write, progress or Progress())
        if not listed:
            raise FoxHandError(
                "pack.empty", tr("There are no cards to pack."), tr("Nothing was written.")
            )
        file = PackFile(
            "fox-hand pack",
            VERSION,
            name,
            listed,
            author,
            packed_sheets(entries, write),
            packed_maps(entries, write) if extras.maps else [],
            packed_rigs(extras.sidecars, write),
        )
        write("pack.json", msgspec.json.format(msgspec.json.encode(file), indent=1))
    write_atomically(path, buffer.getvalue())
    return len(listed)


def _packed_cards(entries: Sequence[Entry], write: Write, progress: Progress) -> list[PackedCard]:
    """Write the cards themselves; those that are gone meanwhile are left out."""
    listed, taken = [], set[str]()
    for number, entry in enumerate(entries):
        progress.step(number / len(entries), entry.name)
        member = _free(f"cards/{entry.sheet}/{entry.path.name}".replace("//", "/"), taken)
        try:
            data = read_file(entry.path, inputs.CARD)
        except OSError:
            continue
        write(member, data)
        listed.append(
            PackedCard(
                member,
                entry.identity,
                entry.name,
                entry.revision,
                entry.sheet,
                entry.author,
                entry.kind,
            )
        )
    return listed


def _member(name: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0))
    info.external_attr = 0o644 << 16
    return info


def _free(name: str, taken: set[str]) -> str:
    stem, n, found = name.removesuffix(CARD), 2, name
    while found in taken:
        found, n = f"{stem} {n}{CARD}", n + 1
    taken.add(found)
    return found


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    try:
        with opened_archive(path, inputs.PACK, MOST_MEMBERS) as archive:
            yield archive
    except BROKEN as error:
        raise FoxHandError(
            "pack.damaged",
            tr(
                "{name} is damaged or no pack ({why_broken}).",
                name=path.name,
                why_broken=why_broken(error),
            ),
            KEPT,
            tr("Have it sent again."),
        ) from error
    except OSError as error:
        raise FoxHandError(
            "pack.unreadable",
            tr(
                "{name} cannot be opened ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            KEPT,
        ) from error


def read_pack(path: Path) -> PackFile:
    """What a pack says it holds.

    Raises:
        FoxHandError: for files that are damaged, foreign or newer.
    """
    return _read(path)[0]


def _read(path: Path) -> tuple[PackFile, set[int]]:
    """The same, and the numbers of the cards whose words were changed."""
    with _opened(path) as archive:
        text = read_member(archive, "pack.json", LIST_LARGEST)
    try:
        raw: Any = decode_json(text, object)
        if not isinstance(raw, dict) or raw.get("format") != FORMAT:
            raise FoxHandError("pack.foreign", tr("{name} is not a pack.", name=path.name), KEPT)
        file = msgspec.convert(upgrade(raw, current=VERSION, steps=STEPS, what="pack"), PackFile)
    except ValueError as error:
        raise FoxHandError(
            "pack.damaged",
            tr("{name} is damaged: {wrong_with}.", name=path.name, wrong_with=wrong_with(error)),
            KEPT,
        ) from error
    reworded = set[int]()
    for number, card in enumerate(file.cards):
        name, sheet, card.author = (
            plain_name(card.name),
            _inside(card.sheet),
            plain_name(card.author),
        )
        if (name, sheet) != (card.name, card.sheet):
            reworded.add(number)
        card.name, card.sheet, card.author = name or "card", sheet, plain_name(card.author)
    for packed in file.sheets:
        packed.sheet = _inside(packed.sheet)
    return file, reworded


# what a library keeps for itself is called so; nobody should take a sheet of a pack for it
KEEPS = {"removed", "versions", "conflicts"}


def _inside(sheet: str) -> str:
    """A sheet's path that stays in the library, whatever a file says."""
    parts = (p for p in sheet.replace("\\", "/").split("/") if not p.startswith("."))
    found = [stem for part in parts if (stem := file_stem(part))]
    if found and found[0].casefold() in KEEPS:
        found[0] += " (pack)"
    return "/".join(found)


def offers(path: Path, mine: Callable[[str], Entry | None]) -> list[Offer]:
    """What of a pack is new, what is there already, and what is another version of it.

    Args:
        path: the pack.
        mine: the library's card of an identity.

    Raises:
        FoxHandError: as :func:`read_pack`.
    """
    file, reworded = _read(path)
    found = []
    with _opened(path) as archive:
        for number, card in enumerate(file.cards):
            own, odd = mine(card.id), number in reworded
            if own is None:
                found.append(Offer(card, News.NEW, reworded=odd))
                continue
            same = _digest(read_member(archive, card.file, inputs.CARD)) == _digest_of(own.path)
            news = News.SAME if same else News.DIFFERENT
            found.append(Offer(card, news, own.path, own.revision, odd))
    return found


def _digest(data: bytes) -> str:
    return hashlib.sha1(data, usedforsecurity=False).hexdigest()


def _digest_of(path: Path) -> str:
    try:
        return _digest(read_file(path, inputs.CARD))
    except OSError:
        return ""


def take_in(
    library: Library, pack: Path, offer: Offer, own: Entry | None, what: TakeIn
) -> Done | None:
    """Do with one card what was chosen; None where that is nothing.

    Args:
        library: where it goes.
        pack: the pack.
        offer: the card.
        own: the library's card of the same identity.
        what: see :class:`TakeIn`.

    Raises:
        FoxHandError: if the card is damaged or cannot be written; nothing else changes.
    """
    if what is TakeIn.LEAVE:
        return None
    with _opened(pack) as archive:
        data = read_member(archive, offer.card.file, inputs.CARD)
    with scratch_folder() as folder:
        file = folder / f"card{CARD}"
        file.write_bytes(data)
        card, picture = read_card(file)  # a damaged card is refused before anything is written
        if what is TakeIn.THEIRS and own is not None:
            large = read_picture(file, 10_000)
            return moves.store_over(library, own, card, picture, large, read_motion(file))
        if what is TakeIn.BOTH:
            card = replace(card, identity=uuid.uuid4().hex, name=f"{card.name}, theirs")
            data = changed_bytes(file, card)
    return moves.added(library, library.add_bytes(data, card.name, offer.card.sheet))


def take_in_extras(library: Library, pack: Path) -> Done | None:
    """What a pack says of sheets, names and rigs, where the library says nothing of them itself.

    Raises:
        FoxHandError: as :func:`read_pack`, or if something cannot be written.
    """
    file = read_pack(pack)
    with _opened(pack) as archive:
        return take_extras(library, archive, file.sheets, [*file.maps, *file.rigs])


def json_schema() -> bytes:
    """The published JSON Schema of ``pack.json``."""
    return published(PackFile, "Fox Hand pack, version 1")
