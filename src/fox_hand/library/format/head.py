"""The front of a card file, read fast: what an index needs of 100,000 cards.

``card.json`` lies uncompressed near the beginning of the ZIP, so one read and one decode of the
wanted keys are enough. Whatever is out of the ordinary goes the long way through
:func:`~fox_hand.library.format.container.read_card`, which also finds the right words for what is
wrong.
"""

from __future__ import annotations

import hashlib
import itertools
import os
import struct
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Literal

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import Number
from fox_hand.base.files.inputs import CARD, open_descriptor
from fox_hand.base.words import plain_name
from fox_hand.core.animation.passage import passage
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.similarity import Numbers
from fox_hand.library.format.card import clip_of
from fox_hand.library.format.container import read_card, read_document
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.schema import (
    MOST_CONTROLS,
    SUFFIX,
    VERSION,
    ApprovedFile,
    CharacterFile,
    ClipFile,
    KindName,
    Quaternion,
    RegionName,
    Revision,
    RoleName,
    Share,
    SideName,
    Vector,
)

NO_TURN = 1e-9  # a quaternion of this length says nothing
NOTHING: tuple[str, ...] = ()
KINDS = ("turns", "moves", "scales", "settings")
CHUNK = 64 << 10
LOCAL, END = b"PK\x03\x04", b"PK\x05\x06"
LOCAL_HEADER = struct.Struct("<4s5H3I2H")
END_SIZE = 22
# name, parent, role, how sure that is, free: plain, as there are dozens of them in every card
Joints = tuple[tuple[str, str | None, str | None, float, bool], ...]
Turns = Mapping[str, Quaternion]


class _RestHead(msgspec.Struct):
    parent: str | None = None
    role: RoleName | None = None
    role_sure: Share = 1.0


class _HeldHead(msgspec.Struct):
    """What is held of one control."""

    move: Vector | None = None
    turn: Quaternion | None = None
    scale: Vector | None = None
    settings: dict[str, Number] = {}
    rest: _RestHead | None = None


class _CarriedHead(msgspec.Struct):
    pulled: dict[str, list[str]] = {}


class _CardHead(msgspec.Struct):
    """The keys of ``card.json`` that are listed; all others are passed over unread."""

    format: Literal["fox-hand card"]
    version: int
    id: Annotated[str, msgspec.Meta(min_length=8, max_length=64)]
    name: str
    controls: Annotated[dict[str, _HeldHead], msgspec.Meta(max_length=MOST_CONTROLS)]
    kind: KindName = "pose"
    revision: Revision = 1
    region: RegionName = "torso"
    side: SideName = "centre"
    tags: list[str] = []
    note: str = ""
    author: str = ""
    licence: str = ""
    created: str = ""
    changed: str = ""
    changed_by: str = ""
    character: CharacterFile | None = None
    approved: ApprovedFile | None = None
    clip: ClipFile | None = None
    carried: _CarriedHead | None = None


DECODER = msgspec.json.Decoder(_CardHead)
PACKER = msgspec.msgpack.Encoder()


@dataclass(frozen=True)
class Head:
    """What is listed of a card, and what finding like poses needs.

    Args:
        entry: for lists; its ``item`` and ``shape`` are not known yet.
        controls: names it holds, sorted, each with the names of the settings held of it.
        joints: what it says of the joints among them, as
            :class:`~fox_hand.core.naming.known_roles.JointSaid` after each name.
        turns: unit quaternions relative to rest by control name.
        settings: values by setting name.
        motion: of a clip, how it passes.
    """

    entry: Entry
    controls: tuple[tuple[str, tuple[str, ...]], ...] = ()
    joints: Joints = ()
    turns: Turns = field(default_factory=dict)
    settings: Mapping[str, float] = field(default_factory=dict)
    motion: Numbers | None = None


def read_head(path: Path, sheet: str) -> Head:
    """What an index keeps of one file. Never raises for what is wrong with the file: the entry
    says so."""
    try:
        head, has_picture = read_quickly(path) or _slow(path)
        return _of_file(path, sheet, head, has_picture)
    except FoxHandError as error:
        name = plain_name(path.name.removesuffix(SUFFIX))
        return Head(Entry(path, sheet, name=name, error=error))


def _slow(path: Path) -> tuple[_CardHead, bool]:
    """The same by way of a full reading, which finds the right words for what is wrong."""
    _, picture = read_card(path)
    document, _ = read_document(path)
    return msgspec.convert(document, _CardHead), picture is not None


def read_quickly(path: Path) -> tuple[_CardHead, bool] | None:
    """The decoded keys and whether there is a picture; None if the long way is needed, which
    takes ten times as long and is for what is out of the ordinary only."""
    found = _description(path)
    if found is None:
        return None
    text, members = found
    try:
        head = DECODER.decode(text)
    except (ValueError, RecursionError):  # the long way says what is wrong
        return None
    # all versions up to this one have these keys alike
    if not 1 <= head.version <= VERSION or _turned_by_nothing(head):
        return None
    return head, members > 2


def _turned_by_nothing(head: _CardHead) -> bool:
    """Whether some quaternion has no length. The last number is looked at first: it is next to
    nothing for half turns only."""
    turns = [h.turn for h in head.controls.values() if h.turn is not None]
    doubtful = [turn for turn in turns if -NO_TURN < turn[3] < NO_TURN]
    return any(max(map(abs, turn)) < NO_TURN for turn in doubtful)


def _description(path: Path) -> tuple[bytes, int] | None:
    """``card.json`` and how many members the file has."""
    try:
        descriptor, size = open_descriptor(path, CARD)
    except OSError:
        return None
    try:
        data = os.read(descriptor, CHUNK)
        tail = data[-END_SIZE:]
        if size > len(data):
            tail = os.pread(descriptor, END_SIZE, size - END_SIZE)
        first = _member(data, 0)
        member = None if first is None else _member(data, first.end)
        # a file that was cut off, or has a comment at its end, does not end like this
        if not tail.startswith(END) or member is None or member.name != b"card.json":
            return None
        text = data[member.start : member.end]
        if member.end > len(data):
            text += os.pread(descriptor, member.end - len(data), len(data))
    except OSError:
        return None
    finally:
        os.close(descriptor)
    return (
        (text, struct.unpack_from("<H", tail, 10)[0]) if zlib.crc32(text) == member.check else None
    )


@dataclass(frozen=True)
class _Member:
    name: bytes
    start: int
    end: int
    check: int


def _member(data: bytes, at: int) -> _Member | None:
    """A stored member whose local header begins at ``at`` (PKWARE APPNOTE 4.3.7)."""
    if at + LOCAL_HEADER.size > len(data):
        return None
    sign, _, flags, method, _, _, check, packed, full, name_size, extra = LOCAL_HEADER.unpack_from(
        data, at
    )
    if sign != LOCAL or method != 0 or flags & 0x09 or packed != full or full > CHUNK << 9:
        return None
    begin = at + LOCAL_HEADER.size
    start = begin + name_size + extra
    return _Member(data[begin : begin + name_size], start, start + full, check)


def _content(head: _CardHead, names: Sequence[str]) -> str:
    """Stands for the values of a card, whatever its words are."""
    controls = head.controls
    rows = [(n, (h := controls[n]).move, h.turn, h.scale, h.settings) for n in names]
    return hashlib.blake2b(PACKER.encode((rows, head.clip)), digest_size=8).hexdigest()


def _joints(head: _CardHead, names: Sequence[str]) -> Joints:
    """What a card says of its joints; goals and poles are told from them as a fit does it."""
    pulled: set[str] = set()
    if head.carried is not None:
        pulled.update(*head.carried.pulled.values())
    found = []
    for name in names:
        held = head.controls[name]
        rest = held.rest
        if rest is not None:
            free = name in pulled or (held.move is not None and held.turn is None)
            found.append((name, rest.parent, rest.role, rest.role_sure, free))
    return tuple(found)


def _of_file(path: Path, sheet: str, head: _CardHead, has_picture: bool) -> Head:
    names = sorted(head.controls)
    everything = head.controls.values()
    turns = {name: held.turn for name, held in head.controls.items() if held.turn is not None}
    settings: dict[str, float] = {}
    for held in everything:
        if held.settings:
            settings.update(held.settings)
    kinds = (
        bool(turns),
        any(held.move is not None for held in everything),
        any(held.scale is not None for held in everything),
        bool(settings),
    )
    character = head.character or CharacterFile("")
    approved = head.approved or ApprovedFile()
    entry = Entry(
        path,
        sheet,
        identity=head.id,
        name=plain_name(head.name) or path.name.removesuffix(SUFFIX),
        revision=head.revision,
        region=Region(head.region),
        side=head.side,
        kind=head.kind,
        tags=tuple(t for tag in head.tags if (t := plain_name(tag))),
        note=head.note,
        author=plain_name(head.author),
        licence=head.licence,
        character=character.name,
        fingerprint=character.fingerprint,
        created=head.created,
        changed=head.changed,
        changed_by=plain_name(head.changed_by) or plain_name(head.author),
        content=_content(head, names),
        approved_by=approved.by,
        approved_at=approved.at,
        count=len(head.controls),
        holds=tuple(itertools.compress(KINDS, kinds)),
        has_picture=has_picture,
    )
    held_of = head.controls
    controls = tuple(
        (n, tuple(sorted(s)) if (s := held_of[n].settings) else NOTHING) for n in names
    )
    joints = _joints(head, names)
    motion = None if head.clip is None else passage(clip_of(head.clip))
    return Head(entry, controls, joints, turns, settings, motion)
