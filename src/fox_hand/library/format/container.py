"""``<name>.foxcard``: one card as one ZIP file."""

from __future__ import annotations

import contextlib
import io
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.archive import BROKEN, opened_archive, read_member, why_broken
from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import CARD, TooLargeError, open_file
from fox_hand.base.files.versions import Step, upgrade
from fox_hand.base.language import tr
from fox_hand.library.format.card import Card, CardDrawing, from_file, to_file
from fox_hand.library.format.schema import FORMAT, MIMETYPE, VERSION, CardFile

PICTURE = 320  # width and height of the picture, in pixels
LARGEST_MEMBER = 32 << 20  # what a part of a card may unpack to; more is an accident
MOST_MEMBERS = 64
PICTURES = ("thumb.png", "thumb@2x.webp")
MOTION = "motion.webp"
Pictures = tuple[bytes | None, ...]  # at 320 and 640 px, and of a clip the moving one
DRAWING = "drawing.png"
# how to lift an older version by one; 2 only added clips, 3 only drawings
STEPS: dict[int, Step] = {1: dict, 2: dict}
KEPT = tr("The file was left as it is.")


def card_bytes(
    card: Card, picture: bytes | None, large: bytes | None = None, motion: bytes | None = None
) -> bytes:
    """The whole file. ``mimetype`` comes first and uncompressed, then ``card.json``, also
    uncompressed so that a list of cards is read without inflating, then ``thumb.png`` (320 px)
    and ``thumb@2x.webp`` (640 px); of a clip ``motion.webp``, its frames one after the other; of
    a drawing ``drawing.png``, itself."""
    own = None
    if card.drawing is not None:
        own = card.drawing.data or None
    if own is None and card.kind == "drawing":  # a pose again that only was one of a drawing
        card = replace(card, kind="pose", drawing=None)
    pictures = dict(zip(PICTURES, (picture, large), strict=True))
    more = {**pictures, MOTION: motion, DRAWING: own}
    return _packed(card, {name: data for name, data in more.items() if data is not None})


def changed_bytes(path: Path, card: Card, pictures: Pictures | None = None) -> bytes:
    """The file at ``path`` with another ``card.json``; its other members stay byte for byte.

    Args:
        path: some card's file.
        card: what it is to say.
        pictures: others than it has, at 320 and 640 px; a moving one only where it is given.

    Raises:
        FoxHandError: as :func:`read_card`.
    """
    with _opened(path) as archive:
        named = dict(zip((*PICTURES, MOTION), pictures or (), strict=False))
        if named.get(MOTION) is None:
            named.pop(MOTION, None)
        made = {"mimetype", "card.json", *named, *(() if card.drawing is not None else (DRAWING,))}
        names = [n for n in archive.namelist() if n not in made]
        others = {name: _read_member(archive, name, path) for name in names}
    new = {name: data for name, data in named.items() if data is not None}
    return _packed(card, {**new, **others})


def _packed(card: Card, others: Mapping[str, bytes]) -> bytes:
    text = _text(to_file(card))
    _not_too_large(card, text, others)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr(_member("mimetype"), MIMETYPE)
        archive.writestr(_member("card.json"), text)
        for name, data in others.items():
            archive.writestr(_member(name), data)
    return buffer.getvalue()


def _not_too_large(card: Card, text: bytes, others: Mapping[str, bytes]) -> None:
    """What could not be read again is not written."""
    largest = max(len(text), *(len(data) for data in others.values()), 0)
    if largest <= LARGEST_MEMBER:
        return
    lines = 0 if card.clip is None else len(card.clip.lines)
    raise FoxHandError(
        "card.too_large",
        tr(
            "{name} would be {largest} MB, and a card holds {largest_member} MB: "
            "{lines} channels move in it, with keys on very many frames.",
            name=card.name,
            largest=largest >> 20,
            largest_member=LARGEST_MEMBER >> 20,
            lines=lines,
        ),
        tr("Nothing was stored."),
        tr("Take fewer controls or fewer frames, or every second frame."),
    )


def _text(file: CardFile) -> bytes:
    """JSON with a line for each fact and for each control: half the size of one number a line,
    and still easy to read and compare."""
    facts = msgspec.to_builtins(file)
    controls, clip = facts.pop("controls"), facts.pop("clip", None)
    lines = [b"%s: %s" % (_json(key), _json(value)) for key, value in facts.items()]
    held = b",\n  ".join(b"%s: %s" % (_json(name), _json(h)) for name, h in controls.items())
    lines.append(b'"controls": {\n  %s\n }' % held if held else b'"controls": {}')
    if clip is not None:
        moving = b",\n   ".join(_json(line) for line in clip.pop("lines"))
        words = b", ".join(b"%s: %s" % (_json(key), _json(value)) for key, value in clip.items())
        lines.append(b'"clip": {%s, "lines": [\n   %s\n  ]}' % (words, moving))
    return b"{\n %s\n}\n" % b",\n ".join(lines)


def _json(value: object) -> bytes:
    return msgspec.json.format(msgspec.json.encode(value), indent=0)


def _member(name: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0))  # equal cards give equal bytes
    info.external_attr = 0o644 << 16
    return info


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    """The archive; what goes wrong while reading it becomes a sentence."""
    try:
        with opened_archive(path, CARD, MOST_MEMBERS) as archive:
            yield archive
    except zipfile.BadZipFile as error:
        raise _unreadable(path) from error
    except BROKEN as error:
        why = why_broken(error)
        raise FoxHandError(
            "card.damaged", tr("{name} is damaged: {why}.", name=path.name, why=why), KEPT
        ) from error
    except OSError as error:
        raise FoxHandError(
            "card.unreadable",
            tr(
                "{name} cannot be opened ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            KEPT,
        ) from error


def read_card(path: Path) -> tuple[Card, bytes | None]:
    """A card and its picture (None where it has none that can be read).

    Raises:
        FoxHandError: with what is wrong, for files that are cut off, damaged, foreign or newer.
    """
    document, names = read_document(path)
    try:
        card = from_file(msgspec.convert(document, CardFile))
    except ValueError as error:
        raise FoxHandError(
            "card.damaged",
            tr("{name} is damaged: {wrong_with}.", name=path.name, wrong_with=wrong_with(error)),
            KEPT,
        ) from error
    return card, _picture_or_none(path) if "thumb.png" in names else None


def read_drawing(path: Path) -> CardDrawing:
    """The drawing that a card brings along.

    Raises:
        FoxHandError: as :func:`read_card`; ``card.no_drawing`` where it brings none.
    """
    card, _ = read_card(path)
    with _opened(path) as archive:
        if card.drawing is None or DRAWING not in archive.namelist():
            raise FoxHandError(
                "card.no_drawing", tr("{name} brings no drawing along.", name=path.name), KEPT
            )
        return replace(card.drawing, data=_read_member(archive, DRAWING, path))


def _picture_or_none(path: Path) -> bytes | None:
    """A pose is worth reading even if its picture is damaged; :func:`damage` tells of that."""
    try:
        return read_picture(path)
    except FoxHandError:
        return None


def damage(path: Path) -> FoxHandError | None:
    """What is wrong with a card file, every byte looked at; None if nothing is.

    Takes as long as reading the file; a list of cards looks only at their descriptions.
    """
    try:
        read_card(path)
        with _opened(path) as archive:
            broken = archive.testzip()
    except FoxHandError as error:
        return error
    if broken is None:
        return None
    return FoxHandError(
        "card.picture_damaged" if broken in PICTURES else "card.damaged",
        tr("{broken} in {name} is damaged.", broken=broken, name=path.name),
        tr("{kept} The pose can be used.", kept=KEPT),
        tr("Take its picture again.") if broken in PICTURES else "",
    )


def read_document(path: Path) -> tuple[dict[str, Any], frozenset[str]]:
    """The description as it lies in the file, lifted to the current version, and the names of
    the file's members.

    Raises:
        FoxHandError: as :func:`read_card`.
    """
    with _opened(path) as archive:
        names = frozenset(archive.namelist())
        if "card.json" not in names:
            raise FoxHandError("card.foreign", tr("{name} holds no card.", name=path.name), KEPT)
        text = _read_member(archive, "card.json", path)
    return _decode(text, path), names


def read_picture(path: Path, pixels: int = 0) -> bytes | None:
    """The picture of a card for showing it at a size in device pixels; None where it has none.

    Raises:
        FoxHandError: as :func:`read_card`.
    """
    with _opened(path) as archive:
        names = archive.namelist()
        for name in ("thumb@2x.webp", "thumb.png") if pixels > PICTURE else ("thumb.png",):
            if name in names:
                return _read_member(archive, name, path)
    return None


def read_motion(path: Path) -> bytes | None:
    """The moving picture of a clip; None where it has none.

    Raises:
        FoxHandError: as :func:`read_card`.
    """
    with _opened(path) as archive:
        return _read_member(archive, MOTION, path) if MOTION in archive.namelist() else None


def _read_member(archive: zipfile.ZipFile, name: str, path: Path) -> bytes:
    try:
        return read_member(archive, name, LARGEST_MEMBER)
    except TooLargeError as error:
        raise FoxHandError(
            "card.too_large",
            tr(
                "{name} is too large for a card: {strerror}.",
                name=path.name,
                strerror=error.strerror,
            ),
            KEPT,
        ) from error


def _unreadable(path: Path) -> FoxHandError:
    try:
        with open_file(path, CARD) as file:
            start = file.read(2)
    except OSError as error:  # gone between two looks at it
        return FoxHandError(
            "card.unreadable",
            tr(
                "{name} cannot be opened ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            KEPT,
        )
    if not start:
        return FoxHandError("card.empty", tr("{name} is empty (0 bytes).", name=path.name), KEPT)
    begins = start == b"PK"[: len(start)]
    if begins:
        return FoxHandError(
            "card.truncated",
            tr("{name} is damaged: it ends in the middle or was changed.", name=path.name),
            KEPT,
            tr("Copy it again from where it came, or capture the pose again."),
        )
    return FoxHandError("card.foreign", tr("{name} is not a card.", name=path.name), KEPT)


def _decode(text: bytes, path: Path) -> dict[str, Any]:
    try:
        raw: Any = decode_json(text, object)
    except ValueError as error:
        raise FoxHandError(
            "card.damaged",
            tr("{name} is damaged: {wrong_with}.", name=path.name, wrong_with=wrong_with(error)),
            KEPT,
        ) from error
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise FoxHandError(
            "card.foreign", tr("{name} is not a card of Fox Hand.", name=path.name), KEPT
        )
    return upgrade(raw, current=VERSION, steps=STEPS, what="card")
