"""The inside of a card: ``card.json``, version 2. Its JSON Schema is in ``docs/format/``."""

from __future__ import annotations

from typing import Annotated, Literal

import msgspec

from fox_hand.base.files.documents import Number, Positive
from fox_hand.base.files.published import published
from fox_hand.core.maths.euler import EulerOrder
from fox_hand.library.format.carried_file import CarriedFile
from fox_hand.library.format.lines_file import KeptLine

FORMAT = "fox-hand card"
# clips came with 2, drawings with 3; cards of poses still say 1, so that older programs read them
VERSION = 3
MIMETYPE = b"application/vnd.fox-hand.card+zip"
SUFFIX = ".foxcard"
MOST_CONTROLS = 20_000

Vector = tuple[Number, Number, Number]
Quaternion = tuple[Number, Number, Number, Number]
RegionName = Literal[
    "head", "eyes", "mouth", "torso", "arms", "hands", "legs", "ears", "wings", "tail", "limbs"
]
SideName = Literal["left", "right", "centre", "both"]
KindName = Literal["pose", "clip", "drawing"]
StyleName = Literal["shaded", "clay", "outline"]


# a number that every reader of JSON keeps exactly, and that fits a database
Revision = Annotated[int, msgspec.Meta(ge=1, le=(1 << 53) - 1)]


RoleName = Annotated[str, msgspec.Meta(min_length=1, max_length=64)]
Share = Annotated[float, msgspec.Meta(ge=0.0, le=1.0)]


class RestFile(msgspec.Struct, omit_defaults=True):
    """Where a control stood at rest: metres and quaternions (x, y, z, w). ``role`` is the humanoid
    role that its rig gives it, a bone name of VRM 1.0; ``role_sure`` says from 0 to 1 how sure that
    is, where only the shape of the rig says it."""

    translation: Vector
    rotation: Quaternion
    scale: Vector
    world_rotation: Quaternion
    parent: str | None = None
    role: RoleName | None = None
    role_sure: Share = 1.0


class HeldFile(msgspec.Struct, omit_defaults=True):
    """The channels held of one control, relative to rest. A key that is not there is absent from
    the pose. ``euler`` is in degrees, as it was authored in ``order``."""

    move: Vector | None = None
    turn: Quaternion | None = None
    euler: Vector | None = None
    order: EulerOrder | None = None
    scale: Vector | None = None
    settings: dict[str, Number] = {}
    options: dict[str, str] = {}
    rest: RestFile | None = None


class CharacterFile(msgspec.Struct, omit_defaults=True):
    """Whose pose it is: display name and the rig's fingerprint."""

    name: str
    fingerprint: str = ""


class ApprovedFile(msgspec.Struct, omit_defaults=True):
    """Who locked the card, and when (RFC 3339, UTC)."""

    by: str = ""
    at: str = ""


class TakenFile(msgspec.Struct, omit_defaults=True):
    """Where the pose was taken: a shot or a file with motion, and the frame in it."""

    source: str = ""
    frame: Number | None = None


class AnchorFile(msgspec.Struct, omit_defaults=True):
    """The part of the body that the picture is of: a control, where its node was in metres when
    the picture was taken, and how it was turned away from its rest, a unit quaternion x, y, z, w.
    A later picture is taken by moving the camera with it."""

    control: str
    at: Vector
    turn: Quaternion


class FrameFile(msgspec.Struct, omit_defaults=True):
    """How the picture was taken. The camera is in metres and degrees, ``shift`` in half pictures;
    ``ground`` is false where the background was left out. ``around`` is how the figure stood where
    the card holds nothing of it."""

    target: Vector
    yaw: Number
    pitch: Number
    distance: Number
    fov: Number
    roll: Number = 0.0
    shift: tuple[Number, Number] = (0.0, 0.0)
    style: StyleName = "shaded"
    ground: bool = True
    anchor: AnchorFile | None = None
    around: Annotated[dict[str, HeldFile], msgspec.Meta(max_length=MOST_CONTROLS)] = {}


class ClipFile(msgspec.Struct, omit_defaults=True):
    """What moves: keys counted from frame 0, for a rate of frames a second."""

    length: Positive
    rate: Positive
    lines: list[KeptLine]


class DrawingFile(msgspec.Struct, omit_defaults=True):
    """One drawing of a puppet's part; its picture is the member ``drawing.png``. ``pivot`` is where
    it turns, pixels from its upper left corner; ``pixel`` how large one of them is, metres, on a
    figure of some ``height``."""

    name: str
    part: str
    pivot: tuple[Number, Number]
    pixel: Positive
    height: Positive = 1.0


class CardFile(msgspec.Struct, omit_defaults=True):
    """One card. ``created`` and ``changed`` are RFC 3339 times in UTC."""

    format: Literal["fox-hand card"]
    version: Annotated[int, msgspec.Meta(ge=1)]
    id: Annotated[str, msgspec.Meta(min_length=8, max_length=64)]
    name: str
    controls: Annotated[dict[str, HeldFile], msgspec.Meta(max_length=MOST_CONTROLS)]
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
    frame: FrameFile | None = None
    approved: ApprovedFile | None = None
    taken: TakenFile | None = None
    clip: ClipFile | None = None
    drawing: DrawingFile | None = None
    own_picture: bool = False
    carried: CarriedFile | None = None


def json_schema() -> bytes:
    """The published JSON Schema of ``card.json``."""
    return published(CardFile, f"Fox Hand card, version {VERSION}")
