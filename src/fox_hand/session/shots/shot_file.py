"""``<name>.foxshot``: a shot as JSON, the cast by reference, a line for every channel's keys."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path
from typing import Annotated, Any, Literal, TypeVar

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import SHOT, read_file
from fox_hand.base.files.published import published
from fox_hand.base.files.versions import Step, upgrade
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import write_atomically
from fox_hand.session.figures.snapshot import VERSION as CAST_VERSION
from fox_hand.session.figures.snapshot import KeptBackdrop, KeptBoard, KeptCast, KeptMember
from fox_hand.session.figures.snapshot_keys import KeptTime

FORMAT = "fox-hand shot"
VERSION = 1
SUFFIX = ".foxshot"
MOST_MEMBERS = 500
STEPS: dict[int, Step] = {}  # how to lift an older version by one; version 1 is the first
KEPT = tr("The file was left as it is.")
Kept = TypeVar("Kept", KeptMember, KeptBoard, KeptBackdrop)


class ShotFile(msgspec.Struct, omit_defaults=True):
    """One shot. Paths are relative to its folder where they lie in the same project."""

    format: Literal["fox-hand shot"]
    version: Annotated[int, msgspec.Meta(ge=1)]
    time: KeptTime
    members: Annotated[list[KeptMember], msgspec.Meta(max_length=MOST_MEMBERS)]
    acting: str = ""
    boards: list[KeptBoard] = []
    at_hand: list[str] = []
    backdrops: list[KeptBackdrop] = []


def shot_bytes(cast: KeptCast, path: Path, root: Path | None = None) -> bytes:
    """The file for a place.

    Args:
        cast: everybody, with absolute paths.
        path: where the file is to lie.
        root: the project's folder; what lies inside is written relative to the shot.
    """
    near = root or path.parent
    behind = [_moved(b, _written(b.path, path.parent, near)) for b in cast.backdrops]
    head = [
        ("format", FORMAT),
        ("version", VERSION),
        ("time", cast.time or KeptTime()),
        ("acting", cast.acting),
        ("boards", [_moved(b, _written(b.path, path.parent, near)) for b in cast.boards]),
        *([("at_hand", cast.at_hand)] if cast.at_hand else []),
        *([("backdrops", behind)] if behind else []),
    ]
    members = [_moved(m, _written(m.path, path.parent, near)) for m in cast.members]
    lines = [b" %s: %s" % (_json(key), _json(value)) for key, value in head]
    lines.append(b' "members": [%s\n ]' % b",".join(_member(m) for m in members))
    return b"{\n%s\n}\n" % b",\n".join(lines)


def _member(member: KeptMember) -> bytes:
    """A line for each fact, and one for each channel's keys."""
    facts = msgspec.to_builtins(member)
    keys, instances = facts.pop("keys", []), facts.pop("blocks", [])
    lines = [b"   %s: %s" % (_json(key), _json(value)) for key, value in facts.items()]
    if instances:
        lines.append(b'   "blocks": [\n    %s\n   ]' % b",\n    ".join(_json(k) for k in instances))
    if keys:
        lines.append(b'   "keys": [\n    %s\n   ]' % b",\n    ".join(_json(k) for k in keys))
    return b"\n  {\n%s\n  }" % b",\n".join(lines)


def _json(value: object) -> bytes:
    return msgspec.json.encode(value)


def _moved(kept: Kept, path: str) -> Kept:
    return msgspec.structs.replace(kept, path=path)


def _written(path: str, folder: Path, root: Path) -> str:
    found = Path(path)
    if found.is_absolute() and found.is_relative_to(root):
        return Path(os.path.relpath(found, folder)).as_posix()
    return path


def read_shot(path: Path) -> KeptCast:
    """Everybody in a shot, with absolute paths.

    Raises:
        FoxHandError: ``shot.unreadable``, ``shot.damaged``, ``version.newer``; the file stays.
    """
    try:
        data = read_file(path, SHOT)
    except OSError as error:
        raise FoxHandError(
            "shot.unreadable",
            tr(
                "{name} cannot be read ({strerror}).",
                name=path.name,
                strerror=error.strerror or error,
            ),
            KEPT,
            tr("Look whether it is still there and may be read."),
        ) from error
    try:
        raw: Any = decode_json(data, object)
        if not isinstance(raw, dict) or raw.get("format") != FORMAT:
            raise FoxHandError("shot.damaged", tr("{name} is not a shot.", name=path.name), KEPT)
        document = upgrade(raw, current=VERSION, steps=STEPS, what="shot")
        file = msgspec.convert(document, ShotFile)
    except ValueError as error:
        raise FoxHandError(
            "shot.damaged",
            tr("{name} is damaged: {wrong_with}.", name=path.name, wrong_with=wrong_with(error)),
            KEPT,
            tr("Use an earlier copy of it."),
        ) from error
    folder = path.absolute().parent
    members = [_moved(m, _absolute(m.path, folder)) for m in file.members]
    boards = [_moved(b, _absolute(b.path, folder)) for b in file.boards]
    behind = [_moved(b, _absolute(b.path, folder)) for b in file.backdrops]
    return KeptCast(
        CAST_VERSION,
        file.acting,
        members,
        boards,
        file.time,
        at_hand=file.at_hand,
        backdrops=behind,
    )


def _absolute(path: str, folder: Path) -> str:
    return os.path.normpath(folder / path)


def write_shot(path: Path, cast: KeptCast, root: Path | None = None) -> None:
    """Write a shot.

    Raises:
        FoxHandError: ``file.write``; what was there stays.
    """
    write_atomically(path, shot_bytes(cast, path, root))


def content_id(cast: KeptCast) -> str:
    """Tells whether two shots hold the same work; where one looks and what is selected is none."""
    members = [msgspec.structs.replace(m, selected=[], fingerprint="") for m in cast.members]
    time = msgspec.structs.replace(cast.time or KeptTime(), frame=1.0, ease="s")
    # an empty hand says nothing, so that shots from before there were hands are still the same
    held: list[object] = [cast.at_hand] if cast.at_hand else []
    held += [cast.backdrops] if cast.backdrops else []
    text = msgspec.json.encode([members, time, cast.boards, *held], order="deterministic")
    return hashlib.sha1(text, usedforsecurity=False).hexdigest()


def json_schema() -> bytes:
    """The published JSON Schema of shots."""
    return published(ShotFile, "Fox Hand shot, version 1")
