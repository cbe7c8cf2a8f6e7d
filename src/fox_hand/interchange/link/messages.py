"""What goes over a link, as types: from them comes the published JSON Schema. Frames themselves are
JSON-RPC 2.0; see ``docs/format/link.md``."""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from fox_hand.base.files.documents import Number
from fox_hand.base.files.published import published

VERSION = 1
Values = dict[str, dict[str, Number]]  # control -> channel -> number


class Nothing(msgspec.Struct):
    """No parameters, or no result."""


class OfRig(msgspec.Struct):
    """About one rig, by the host's id."""

    rig: str


class Client(msgspec.Struct):
    """Who asks."""

    name: str
    version: str = ""
    pid: int = 0


class Hello(msgspec.Struct):
    """The first request: ``protocol`` lists all that are spoken."""

    token: str
    protocol: list[int]
    client: Client


class HostSaid(msgspec.Struct):
    """The program that is linked to."""

    name: str
    version: str


class SceneSaid(msgspec.Struct):
    """What is open there; ``number`` grows when another scene is."""

    name: str
    number: int


class LimitsSaid(msgspec.Struct):
    """Bytes of a frame, frames in a second, seconds until a silent preview is put back."""

    frame: int
    rate: int
    watch: float


class Welcome(msgspec.Struct):
    """The answer to hello."""

    protocol: int
    host: HostSaid
    scene: SceneSaid
    can: list[str]
    limits: LimitsSaid
    role: Literal["leads", "watches"]


class RigSaid(msgspec.Struct):
    """A control rig of the scene."""

    id: str
    name: str
    revision: int
    prefix: str = ""


class RigsSaid(msgspec.Struct):
    """All of them."""

    rigs: list[RigSaid]


class Described(msgspec.Struct):
    """``rig`` is a document as ``foxrig-3.schema.json`` has it, with ``nodes``."""

    rig: dict[str, Any]
    revision: int


class ValuesSaid(msgspec.Struct):
    """All values of a rig as they are in the scene."""

    values: Values
    revision: int


class Show(msgspec.Struct):
    """Show some values; ``number`` comes back with the answer."""

    rig: str
    revision: int
    values: Values
    number: int = 0


class ShownSaid(msgspec.Struct):
    """What became of it; ``skipped`` where a newer one was done instead."""

    number: int = 0
    revision: int = 0
    took: float = 0.0
    slow: bool = False
    skipped: bool = False


class Revision(msgspec.Struct):
    """The revision a rig has now."""

    revision: int


class Keep(msgspec.Struct):
    """Write values as one undo step of that name; ``layer`` null for the usual one."""

    rig: str
    revision: int
    values: Values
    name: str
    keyed: bool = False
    layer: str | None = None


class No(msgspec.Struct):
    """A channel that the host kept as it was."""

    control: str
    channel: str
    why: str = ""


class KeptSaid(msgspec.Struct):
    """What became of a step."""

    revision: int
    refused: list[No] = []


class Undo(msgspec.Struct):
    """Take back the last step, which was ``keep`` or ``set_keys`` of that name."""

    rig: str
    revision: int
    name: str


class Selected(msgspec.Struct):
    """Controls that are selected."""

    controls: list[str]


class Select(msgspec.Struct):
    """Select exactly these."""

    rig: str
    controls: list[str]


class Go(msgspec.Struct):
    """Another frame."""

    frame: Number


class TimeSaid(msgspec.Struct):
    """Frame in sight, range, frames a second."""

    frame: Number
    first: Number
    last: Number
    rate: Number


class KeySaid(msgspec.Struct, rename={"before": "in", "after": "out"}, omit_defaults=True):
    """A key; handles are frames and value away from it."""

    frame: Number
    value: Number
    ease: Literal["step", "line", "curve"] = "line"
    before: tuple[Number, Number] | None = None
    after: tuple[Number, Number] | None = None


class CurveSaid(msgspec.Struct, omit_defaults=True):
    """Keys of one channel, in the order of their frames."""

    control: str
    channel: str
    keys: list[KeySaid]
    layer: str | None = None


class OfLayer(msgspec.Struct):
    """About one rig, and one of its layers or all."""

    rig: str
    layer: str | None = None


class Curves(msgspec.Struct):
    """Curves of a rig."""

    curves: list[CurveSaid]
    revision: int


class SetKeys(msgspec.Struct):
    """Write curves over the frames they span, as one undo step."""

    rig: str
    revision: int
    curves: list[CurveSaid]
    name: str
    layer: str | None = None


class LayerSaid(msgspec.Struct):
    """A layer; the lowest comes first."""

    name: str
    active: bool = False


class Layers(msgspec.Struct):
    """All layers of a rig."""

    layers: list[LayerSaid]


class SwitchSaid(msgspec.Struct):
    """A space, or whether joints or a goal move a limb."""

    name: str
    options: list[str]
    now: str
    label: str = ""


class Switches(msgspec.Struct):
    """All of a rig."""

    switches: list[SwitchSaid]


class Switch(msgspec.Struct):
    """Go over to another option, without the figure moving."""

    rig: str
    name: str
    to: str


class Size(msgspec.Struct):
    """Of a picture, pixels."""

    width: int
    height: int


class PictureSaid(msgspec.Struct):
    """A PNG in base64."""

    png: str


class Requests(msgspec.Struct):
    """``params`` of every method."""

    hello: Hello
    still: Nothing
    rigs: Nothing
    describe: OfRig
    values: OfRig
    show: Show
    put_back: OfRig
    keep: Keep
    undo: Undo
    selection: OfRig
    select: Select
    time: Nothing
    go: Go
    keys: OfLayer
    set_keys: SetKeys
    layers: OfRig
    switches: OfRig
    switch: Switch
    picture: Size


class Results(msgspec.Struct):
    """``result`` of every method."""

    hello: Welcome
    still: Nothing
    rigs: RigsSaid
    describe: Described
    values: ValuesSaid
    show: ShownSaid
    put_back: Revision
    keep: KeptSaid
    undo: KeptSaid
    selection: Selected
    select: Nothing
    time: TimeSaid
    go: TimeSaid
    keys: Curves
    set_keys: KeptSaid
    layers: Layers
    switches: Switches
    switch: Revision
    picture: PictureSaid


class RigRevision(msgspec.Struct):
    """A rig changed."""

    rig: str
    revision: int


class RigSelection(msgspec.Struct):
    """Other controls of a rig are selected."""

    rig: str
    controls: list[str]


class SceneChange(msgspec.Struct):
    """Another scene, or all of it is otherwise."""

    what: Literal["opened", "changed", "undone"]
    number: int
    name: str
    rigs: list[RigSaid]


class Role(msgspec.Struct):
    """The window may change things from now on."""

    role: Literal["leads", "watches"]


class Events(msgspec.Struct):
    """``params`` of everything that a host tells."""

    rigs: RigsSaid
    values: RigRevision
    selection: RigSelection
    time: TimeSaid
    scene: SceneChange
    role: Role


class LinkMessages(msgspec.Struct):
    """All of it, method by method; no frame holds this document itself."""

    requests: Requests
    results: Results
    events: Events


def json_schema() -> bytes:
    """The published JSON Schema of what the frames hold."""
    return published(LinkMessages, f"Fox Hand link, version {VERSION}")
