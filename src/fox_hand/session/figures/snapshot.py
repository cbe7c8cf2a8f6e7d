"""How the cast stood when it was last seen, so that closing loses nothing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import Number, Positive, decode_json
from fox_hand.base.files.inputs import SHOT, read_file
from fox_hand.base.files.versions import upgrade
from fox_hand.base.language import tr
from fox_hand.base.places import Places
from fox_hand.core.model.controls import Channel
from fox_hand.core.rig.locks_limits import Lock
from fox_hand.core.rig.rebind import Values, merged, values_of, with_values
from fox_hand.core.view.camera import Camera
from fox_hand.library.files.atomic import make_folder, write_atomically
from fox_hand.library.format.lines_file import KeptLine, LineBook
from fox_hand.session.figures.animation import Animation
from fox_hand.session.figures.snapshot_keys import (
    KeptBlock,
    KeptClip,
    KeptOrigin,
    KeptTime,
    blocks_from,
    kept_blocks,
    kept_origins,
    keys_from,
)

if TYPE_CHECKING:
    from fox_hand.session.figures.figure import Figure

VERSION = 1
Triple = tuple[Number, Number, Number]


class KeptLock(msgspec.Struct, omit_defaults=True):
    """A locked channel, or a built-in lock that was lifted."""

    control: str
    channel: Channel | None = None
    axis: int = 0
    setting: str = ""


class KeptMember(msgspec.Struct, omit_defaults=True):
    """One figure by reference. Values by control and setting name: metres, quaternions, radians."""

    prefix: str
    path: str
    name: str = ""
    fingerprint: str = ""
    ground: Triple = (0.0, 0.0, 0.0)
    move: dict[str, Triple] = {}
    turn: dict[str, tuple[Number, Number, Number, Number]] = {}
    euler: dict[str, Triple] = {}
    scale: dict[str, Triple] = {}
    settings: dict[str, Number] = {}
    selected: list[str] = []
    locks: list[KeptLock] | None = None
    sets: dict[str, list[str]] = {}
    views: dict[str, dict[str, Any]] = {}
    keys: list[KeptLine] = []
    origins: list[KeptOrigin] = []
    clips: list[KeptClip] = []
    blocks: list[KeptBlock] = []


Pixels = Annotated[int, msgspec.Meta(ge=-(1 << 20), le=1 << 20)]


class KeptBoard(msgspec.Struct, omit_defaults=True):
    """A reference picture pinned to the stage: pixels, and how solid it is."""

    path: str
    x: Pixels = 12
    y: Pixels = 56
    width: Pixels = 0
    fade: Number = 1.0


class KeptBackdrop(msgspec.Struct, omit_defaults=True):
    """A picture that stands behind everybody or, if it is near, in front: the middle of its lower
    edge and its height, metres, and which way it faces, degrees from the front."""

    path: str
    near: bool = False
    x: Number = 0.0
    y: Number = 0.0
    height: Positive = 2.0
    yaw: Number = 0.0


class KeptCast(msgspec.Struct, omit_defaults=True):
    """Everybody on the stage."""

    version: int
    acting: str = ""
    members: list[KeptMember] = []
    boards: list[KeptBoard] = []
    time: KeptTime | None = None
    saved: str = ""  # which state of a shot's file the work began with
    at_hand: list[str] = []  # identities of cards on the number keys, empty for none
    backdrops: list[KeptBackdrop] = []


def cast_path(places: Places, key: str) -> Path:
    """The file of one stage."""
    return places.state / "casts" / f"{key}.json"


def kept_member(
    actor: Figure,
    selected: tuple[int, ...],
    take: Animation | None = None,
    book: LineBook | None = None,
) -> KeptMember:
    """A figure written down; values of controls its rig has lost are kept with the rest.

    Args:
        actor: the figure.
        selected: rows that are selected.
        take: what it does, where that is not what it shows now.
        book: what knows keys that were written down before.
    """
    take, book = take or actor.take, book or LineBook()
    keys = take.keys
    values = merged(actor.spare, values_of(take.rig, take.base))
    ground = actor.ground
    return KeptMember(
        actor.prefix,
        str(actor.path),
        actor.rig.name,
        actor.rig.fingerprint,
        (float(ground[0]), float(ground[1]), float(ground[2])),
        values.move,
        values.turn,
        values.euler,
        values.scale,
        values.settings,
        [actor.rig.controls[r].name for r in selected],
        [KeptLock(x.control, x.channel, x.axis, x.setting) for x in sorted(actor.locks, key=str)],
        {name: list(members) for name, members in actor.sets.items()},
        {name: asdict(camera) for name, camera in actor.views.items()},
        book.write(keys.lines),
        kept_origins(keys),
        *kept_blocks(take.instances, book),
    )


def wake(actor: Figure, kept: KeptMember) -> tuple[int, ...]:
    """Let a figure stand as it was written down; what was selected is returned."""
    values = Values(kept.move, kept.turn, kept.euler, kept.scale, kept.settings)
    state, actor.spare = with_values(actor.rig, values)
    actor.stand_at(np.array(kept.ground))
    keys, instances = keys_from(kept.keys, kept.origins), blocks_from(kept.clips, kept.blocks)
    actor.perform(Animation(actor.rig, state, keys, instances))
    if kept.locks is not None:
        actor.locks = frozenset(Lock(x.control, x.channel, x.axis, x.setting) for x in kept.locks)
    actor.sets = {name: tuple(members) for name, members in kept.sets.items()}
    actor.views = {name: _camera(raw) for name, raw in kept.views.items()}
    rows = actor.rig.control_row
    return tuple(rows[n] for n in kept.selected if n in rows)


def _camera(raw: dict[str, Any]) -> Camera:
    try:
        return msgspec.convert(raw, Camera)
    except msgspec.ValidationError:
        return Camera()


def write_cast(places: Places, key: str, cast: KeptCast) -> None:
    """Write down everybody.

    Raises:
        FoxHandError: ``file.write``.
    """
    path = cast_path(places, key)
    make_folder(path.parent)
    write_atomically(path, msgspec.json.encode(cast))


def read_cast(
    places: Places, key: str, told: Callable[[FoxHandError], None] | None = None
) -> KeptCast | None:
    """Everybody as last written down; None where nothing usable was kept. A file that cannot be
    read is put aside under another name, so that nothing in it is lost.

    Args:
        places: the user's folders.
        key: which stage.
        told: hears what was put aside.
    """
    path = cast_path(places, key)
    try:
        raw: Any = decode_json(read_file(path, SHOT), object)
        if not isinstance(raw, dict):
            raise FoxHandError("cast.damaged", tr("It is not a kept cast."))
        document = upgrade(raw, current=VERSION, steps={}, what=tr("kept cast"))
        return msgspec.convert(document, KeptCast)
    except FileNotFoundError:
        return None
    except (
        OSError,
        ValueError,
        FoxHandError,
    ) as error:  # msgspec's are ValueErrors
        newer = isinstance(error, FoxHandError) and error.code == "version.newer"
        aside = _put_aside(path)
        if told is not None:
            told(
                FoxHandError(
                    "cast.unreadable",
                    tr("Work that was written down but not saved ")
                    + (tr("is of a newer Fox Hand.") if newer else tr("cannot be read.")),
                    tr("It is kept as {aside}.", aside=aside)
                    if aside
                    else tr("It was left as it is."),
                    tr("Update Fox Hand to open it.")
                    if newer
                    else tr("The shot is as it was saved."),
                )
            )
        return None


def _put_aside(path: Path) -> Path | None:
    """Under the first free name; None where it cannot be moved."""
    for number in range(1, 1000):
        aside = path.with_suffix(f".unreadable-{number}.json")
        try:
            aside.hardlink_to(path)
            path.unlink()
        except FileExistsError:
            continue
        except OSError:
            return None
        return aside
    return None
