"""``<rig>.foxrig.json``: what a model file cannot say about a rig, or all of a rig that has no
model file. The file and its schema.

:mod:`fox_hand.interchange.sidecar_rig` lays it onto a rig.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

import msgspec
import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import Number, Positive, decode_json, wrong_with
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.files.published import published
from fox_hand.base.files.versions import Step, upgrade
from fox_hand.base.language import tr
from fox_hand.core.maths.euler import EulerOrder
from fox_hand.core.model.body_frame import BodyFrame, vector
from fox_hand.core.model.controls import Channel, MirrorRule, Region, SettingKind, Side
from fox_hand.core.model.solvers import DrivenKind
from fox_hand.core.rig.rig import RestFrom

VERSION, PLAIN = 3, 2  # of rigs that are only described, and of those beside a model file
FORMAT = "fox-hand rig sidecar"
Span = tuple[Number, Number] | None
Order = EulerOrder | Literal["quaternion"]


class ControlNotes(msgspec.Struct, omit_defaults=True, forbid_unknown_fields=False):
    """What is said about one control; everything left out stays as inferred.

    ``locked`` names single channels such as ``"turn.y"``; ``settings`` the settings it holds. An
    empty ``partner`` or ``role`` says that it has none.
    """

    label: str | None = None
    side: Side | None = None
    region: Region | None = None
    role: str | None = None
    order: Order | None = None
    channels: list[Channel] | None = None
    limits: list[Span] | None = None
    move_limits: list[Span] | None = None
    locked: list[str] | None = None
    axis_labels: tuple[str, str, str] | None = None
    partner: str | None = None
    helper: bool = False
    settings: list[str] = []


class TargetNotes(msgspec.Struct, omit_defaults=True):
    """A control that stands free: a goal, a pole, or something to look at.

    Its rest place is ``offset`` metres (along the world's axes) from the joint ``at``; its axes
    are the world's, or those of the joint ``like``; it is carried along by the control or joint
    ``under``, or stays in the world.
    """

    kind: Literal["goal", "pole", "look"]
    at: str
    label: str | None = None
    offset: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)
    like: str | None = None
    under: str | None = None
    side: Side = Side.CENTRE
    region: Region = Region.TORSO
    order: Order = "XYZ"
    channels: list[Channel] | None = None
    locked: list[str] = []
    axis_labels: tuple[str, str, str] | None = None
    partner: str | None = None
    settings: list[str] = []


class SettingNotes(msgspec.Struct, omit_defaults=True):
    """What is said about one setting. A setting the file does not have is made if a control,
    target or holder lists it."""

    label: str | None = None
    minimum: Number = 0.0
    maximum: Number = 1.0
    default: Number = 0.0
    mirror: MirrorRule | None = None
    partner: str | None = None
    kind: SettingKind = SettingKind.FLOAT
    options: list[str] = []
    helper: bool = False


class HolderNotes(msgspec.Struct, omit_defaults=True):
    """A control that only holds settings and hangs somewhere on the figure.

    ``at`` is a joint's name and ``offset`` metres in that joint's frame.
    """

    label: str
    at: str
    offset: tuple[Number, Number, Number]
    settings: list[str]
    side: Side = Side.CENTRE
    region: Region = Region.HEAD
    partner: str | None = None


class LimbNotes(msgspec.Struct, omit_defaults=True, tag_field="type", tag="limb"):
    """Two bones that reach for a goal; ``blend`` and the twists are settings."""

    name: str
    upper: str
    lower: str
    end: str
    goal: str
    pole: str
    blend: str | None = None
    twist_upper: str | None = None
    twist_lower: str | None = None


class LookNotes(msgspec.Struct, omit_defaults=True, tag_field="type", tag="look"):
    """A joint that turns towards a target; limits in degrees."""

    name: str
    joint: str
    target: str
    blend: str | None = None
    left: Number = 45.0
    right: Number = 45.0
    up: Number = 35.0
    down: Number = 35.0


class TwistNotes(msgspec.Struct, omit_defaults=True, tag_field="type", tag="twist"):
    """A helper joint that takes a share of another joint's turn about the bone."""

    joint: str
    source: str
    axis: Literal["x", "y", "z"] = "y"
    share: Number = 0.5


class DriveNotes(msgspec.Struct, omit_defaults=True):
    """A curve from a setting to a setting, or to a joint's channel; degrees and metres."""

    source: str
    onto: DrivenKind
    target: str
    points: list[tuple[Number, Number]]
    axis: Literal["x", "y", "z"] = "x"
    times: str | None = None


class BodyNotes(msgspec.Struct, omit_defaults=True):
    """Which way the figure of a model file stands, in the file's world once it is in metres with
    +Y up: unit vectors, and a point in metres between its two sides."""

    ahead: tuple[Number, Number, Number] = (0.0, 0.0, 1.0)
    up: tuple[Number, Number, Number] = (0.0, 1.0, 0.0)
    middle: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)

    def frame(self) -> BodyFrame | None:
        """As it is worked with; None where the two ways are none, or one and the same."""
        up, ahead = np.array(self.up), np.array(self.ahead)
        size = float(np.linalg.norm(up))
        if size < 1e-6:
            return None
        up = up / size
        ahead = ahead - (ahead @ up) * up
        size = float(np.linalg.norm(ahead))
        if size < 1e-6:
            return None
        return BodyFrame(vector(up), vector(ahead / size), self.middle, said=True)


class NodeNotes(msgspec.Struct, omit_defaults=True):
    """A node of a rig that is described without a model file: how it rests in its parent's frame.

    ``translation`` is in the file's unit and axes, ``rotation`` x, y, z, w. Where the channels of
    the node are zero it stands like this, so a control that is zeroed in its program has here the
    place of what it hangs on. Nodes are controls unless ``control`` says otherwise.
    """

    name: str
    parent: str | None = None
    translation: tuple[Number, Number, Number] = (0.0, 0.0, 0.0)
    rotation: tuple[Number, Number, Number, Number] = (0.0, 0.0, 0.0, 1.0)
    scale: tuple[Number, Number, Number] = (1.0, 1.0, 1.0)
    control: bool = True


class MeshNotes(msgspec.Struct, omit_defaults=True):
    """What is shown of a rig that is described without a model file: the mesh of a glTF file, its
    path from here, and for its joints the nodes that carry them. A joint of which nothing is said
    is carried by the node of the same name, else by what carries the joint above it; a shape of
    which nothing is said is driven by the setting of the same name."""

    file: str
    joints: dict[str, str] = {}
    shapes: dict[str, str] = {}


class SpotNotes(msgspec.Struct):
    """A control's place on the figure drawing, 0...1 from its upper left corner."""

    x: Number
    y: Number


class Sidecar(msgspec.Struct, omit_defaults=True):
    """The file. Angles are degrees, lengths metres. ``metres_per_unit`` says the unit of a model
    file that does not, or that says it wrongly. ``rest_from`` says what counts as rest where the
    nodes of the file stand in another stance than its ``skin`` was bound in, ``body`` which way
    the figure stands. With ``nodes`` the file is a rig by itself; they are in the file's unit,
    right-handed, and ``up`` is the axis that points upwards. All else stays in metres, +Y up."""

    format: str
    version: int
    name: str | None = None
    metres_per_unit: Positive | None = None
    rest_from: RestFrom | None = None
    body: BodyNotes | None = None
    controls: dict[str, ControlNotes] = {}
    targets: dict[str, TargetNotes] = {}
    settings: dict[str, SettingNotes] = {}
    holders: dict[str, HolderNotes] = {}
    drives: list[DriveNotes] = []
    solvers: list[LimbNotes | LookNotes | TwistNotes] = []
    sets: dict[str, list[str]] = {}
    picker: dict[str, SpotNotes] = {}
    up: Literal["y", "z"] = "y"
    nodes: list[NodeNotes] = []
    mesh: MeshNotes | None = None


def _more_to_say(document: dict[str, Any]) -> dict[str, Any]:
    """Version 2 adds targets, solvers, drives and a picker, version 3 nodes and a mesh; what older
    ones say stays valid."""
    return dict(document)


STEPS: dict[int, Step] = {1: _more_to_say, 2: _more_to_say}
SUFFIX = ".foxrig.json"


def is_description(path: Path) -> bool:
    """Whether a file is one of these and no model file."""
    return path.name.lower().endswith(SUFFIX)


def sidecar_path(rig_path: Path) -> Path:
    """Where the sidecar of a rig file lies; of a rig that is only described the file itself."""
    return rig_path if is_description(rig_path) else rig_path.with_suffix(SUFFIX)


def rig_stem(rig_path: Path) -> str:
    """The name of a rig's file without its ending."""
    return rig_path.name[: -len(SUFFIX)] if is_description(rig_path) else rig_path.stem


def kind_of(rig_path: Path) -> str:
    """The ending that says which kind of file it is, in small letters."""
    return SUFFIX if is_description(rig_path) else rig_path.suffix.lower()


def read_sidecar(path: Path) -> Sidecar:
    """Read and check a sidecar.

    Raises:
        FoxHandError: with what is wrong and where.
    """
    try:
        raw: Any = decode_json(read_file(path, CARD), object)
        if not isinstance(raw, dict) or raw.get("format") != FORMAT:
            raise FoxHandError(
                "sidecar.foreign", tr("{name} is not a rig sidecar.", name=path.name)
            )
        document = upgrade(raw, current=VERSION, steps=STEPS, what=tr("rig sidecar"))
        return msgspec.convert(document, Sidecar)
    except (OSError, ValueError) as error:
        raise FoxHandError(
            "sidecar.damaged",
            tr(
                "{name} cannot be read: {wrong_with}.", name=path.name, wrong_with=wrong_with(error)
            ),
            tr("The rig was opened without it."),
        ) from error


def write_sidecar(sidecar: Sidecar) -> bytes:
    """The file's bytes: of the lowest version that says all of it, so that older programs read it
    as well."""
    sidecar.version = VERSION if sidecar.nodes or sidecar.mesh is not None else PLAIN
    return msgspec.json.format(msgspec.json.encode(sidecar), indent=1) + b"\n"


def json_schema() -> bytes:
    """The published JSON Schema of a sidecar."""
    return published(Sidecar, f"Fox Hand rig sidecar, version {VERSION}")
