"""``<name>.foxcard``: one card as one ZIP file."""

from __future__ import annotations

import io
import uuid
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.versions import Step, upgrade
from fox_hand.core.camera import Camera
from fox_hand.core.controls import Region
from fox_hand.core.pose import Held, Pose, RestFrame
from fox_hand.library.schema import (
    FORMAT,
    MIMETYPE,
    VERSION,
    CardFile,
    CharacterFile,
    FrameFile,
    HeldFile,
    RestFile,
    SideName,
)

SUFFIX = ".foxcard"
LARGEST_MEMBER = 32 << 20  # what a card may unpack to; more is no card but an accident
STEPS: dict[int, Step] = {}  # how to lift an older version by one; version 1 is the first
KEPT = "The file was left as it is."


@dataclass(frozen=True)
class Card:
    """A pose with everything a person knows about it.

    Args:
        name: as shown.
        pose: the values.
        region: where on the body it belongs.
        side: left, right, centre, or both.
        character, fingerprint: the rig it was taken from.
        identity: stays the same through renames and moves.
        revision: grows by one at every replacement.
        created, changed: RFC 3339, UTC.
        frame: camera of the picture.
    """

    name: str
    pose: Pose
    region: Region = Region.TORSO
    side: SideName = "centre"
    tags: tuple[str, ...] = ()
    note: str = ""
    author: str = ""
    licence: str = ""
    character: str = ""
    fingerprint: str = ""
    identity: str = field(default_factory=lambda: uuid.uuid4().hex)
    revision: int = 1
    created: str = ""
    changed: str = ""
    frame: Camera | None = None


def card_bytes(card: Card, picture: bytes | None) -> bytes:
    """The whole file. ``mimetype`` comes first and uncompressed, then ``card.json``, also
    uncompressed so that a list of cards is read without inflating, then ``thumb.png``."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr(_member("mimetype"), MIMETYPE)
        text = msgspec.json.format(msgspec.json.encode(_to_file(card)), indent=1)
        archive.writestr(_member("card.json"), text + b"\n")
        if picture is not None:
            archive.writestr(_member("thumb.png"), picture)
    return buffer.getvalue()


def _member(name: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0))  # equal cards give equal bytes
    info.external_attr = 0o644 << 16
    return info


def read_card(path: Path) -> tuple[Card, bytes | None]:
    """A card and its picture (None where it has none).

    Raises:
        FoxHandError: with what is wrong, for files that are cut off, damaged, foreign or newer.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            names = set(archive.namelist())
            if "card.json" not in names:
                raise FoxHandError("card.foreign", f"{path.name} holds no card.", KEPT)
            text = _read_member(archive, "card.json", path)
            picture = _read_member(archive, "thumb.png", path) if "thumb.png" in names else None
    except zipfile.BadZipFile as error:
        raise _unreadable(path) from error
    except (zlib.error, EOFError, NotImplementedError, RuntimeError) as error:
        raise FoxHandError("card.damaged", f"{path.name} is damaged ({error}).", KEPT) from error
    except OSError as error:
        raise FoxHandError(
            "card.unreadable", f"{path.name} cannot be opened ({error.strerror or error}).", KEPT
        ) from error
    return _from_file(_decode(text, path)), picture


def _read_member(archive: zipfile.ZipFile, name: str, path: Path) -> bytes:
    if archive.getinfo(name).file_size > LARGEST_MEMBER:
        raise FoxHandError("card.too_large", f"{path.name} is far too large for a card.", KEPT)
    return archive.read(name)


def _unreadable(path: Path) -> FoxHandError:
    size = path.stat().st_size
    if size == 0:
        return FoxHandError("card.empty", f"{path.name} is empty (0 bytes).", KEPT)
    with path.open("rb") as file:
        begins = file.read(2) == b"PK"[:size]
    if begins:
        return FoxHandError(
            "card.truncated",
            f"{path.name} is damaged: it ends in the middle or was changed.",
            KEPT,
            "Copy it again from where it came, or capture the pose again.",
        )
    return FoxHandError("card.foreign", f"{path.name} is not a card.", KEPT)


def _decode(text: bytes, path: Path) -> CardFile:
    try:
        raw: Any = msgspec.json.decode(text)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise FoxHandError(
            "card.damaged", f"{path.name} is damaged: its description is not JSON.", KEPT
        ) from error
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise FoxHandError("card.foreign", f"{path.name} is not a card of Fox Hand.", KEPT)
    document = upgrade(raw, current=VERSION, steps=STEPS, what="card")
    try:
        return msgspec.convert(document, CardFile)
    except msgspec.ValidationError as error:
        raise FoxHandError("card.damaged", f"{path.name} is damaged: {error}.", KEPT) from error


def _to_file(card: Card) -> CardFile:
    frame = card.frame
    return CardFile(
        format="fox-hand card",
        version=VERSION,
        id=card.identity,
        name=card.name,
        controls={name: _held_file(held) for name, held in card.pose.controls.items()},
        revision=card.revision,
        region=card.region.value,
        side=card.side,
        tags=list(card.tags),
        note=card.note,
        author=card.author,
        licence=card.licence,
        created=card.created,
        changed=card.changed,
        character=CharacterFile(card.character, card.fingerprint) if card.character else None,
        frame=None if frame is None else _frame_file(frame),
    )


def _frame_file(camera: Camera) -> FrameFile:
    yaw, pitch, fov, roll = (
        float(np.degrees(v)) for v in (camera.yaw, camera.pitch, camera.fov, camera.roll)
    )
    return FrameFile(camera.target, yaw, pitch, camera.distance, fov, roll, camera.shift)


def _held_file(held: Held) -> HeldFile:
    rest = held.rest
    return HeldFile(
        move=held.move,
        turn=held.turn,
        euler=None if held.euler is None else _vector(np.degrees(held.euler)),
        order=held.order,
        scale=held.scale,
        settings=dict(held.settings),
        options=dict(held.options),
        rest=None
        if rest is None
        else RestFile(
            rest.translation, rest.rotation, rest.scale, rest.world_rotation, rest.parent
        ),
    )


def _vector(values: Any) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def _from_file(file: CardFile) -> Card:
    character = file.character or CharacterFile("")
    frame = file.frame
    camera = None
    if frame is not None:
        yaw, pitch, fov, roll = np.radians((frame.yaw, frame.pitch, frame.fov, frame.roll))
        camera = Camera(
            frame.target,
            float(yaw),
            float(pitch),
            frame.distance,
            float(fov),
            float(roll),
            frame.shift,
        )
    return Card(
        name=file.name,
        pose=Pose(_controls(file.controls)),
        region=Region(file.region),
        side=file.side,
        tags=tuple(file.tags),
        note=file.note,
        author=file.author,
        licence=file.licence,
        character=character.name,
        fingerprint=character.fingerprint,
        identity=file.id,
        revision=file.revision,
        created=file.created,
        changed=file.changed,
        frame=camera,
    )


def _controls(files: Mapping[str, HeldFile]) -> dict[str, Held]:
    held = {}
    for name, file in files.items():
        rest = file.rest
        held[name] = Held(
            move=file.move,
            turn=_unit(file.turn),
            euler=None if file.euler is None else _vector(np.radians(file.euler)),
            order=file.order,
            scale=file.scale,
            settings=file.settings,
            options=file.options,
            rest=None
            if rest is None
            else RestFrame(
                rest.parent, rest.translation, rest.rotation, rest.scale, rest.world_rotation
            ),
        )
    return held


def _unit(q: tuple[float, float, float, float] | None) -> tuple[float, float, float, float] | None:
    """Turns written by hand may not be of unit length; those of this program stay bit for bit."""
    if q is None:
        return None
    length = float(np.linalg.norm(q))
    if abs(length - 1) < 1e-9:
        return q
    if length < 1e-9:
        return (0.0, 0.0, 0.0, 1.0)
    return (q[0] / length, q[1] / length, q[2] / length, q[3] / length)
