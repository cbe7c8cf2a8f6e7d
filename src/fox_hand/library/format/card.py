"""A card: a pose with everything a person knows about it, and its JSON document."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from fox_hand.base.words import plain_name
from fox_hand.core.animation.clip import Clip
from fox_hand.core.model.controls import Region
from fox_hand.core.pose.pose import Held, Pose, RestFrame
from fox_hand.core.retarget.carried import Carried
from fox_hand.core.view.anchor import Anchor
from fox_hand.core.view.camera import Camera
from fox_hand.library.format.carried_file import carried_file, carried_from
from fox_hand.library.format.lines_file import kept_lines, lines_from
from fox_hand.library.format.schema import (
    VERSION,
    AnchorFile,
    ApprovedFile,
    CardFile,
    CharacterFile,
    ClipFile,
    DrawingFile,
    FrameFile,
    HeldFile,
    KindName,
    RestFile,
    SideName,
    StyleName,
    TakenFile,
)


@dataclass(frozen=True)
class CardDrawing:
    """A drawing that is a card by itself.

    Args:
        name: of the drawing.
        part: label of the part it was drawn for.
        pivot: where it turns, pixels from its upper left corner.
        pixel: metres that one of its pixels is.
        height: metres that the figure was high which it was taken from.
        data: the picture's file; empty where only the card's words were read.
    """

    name: str
    part: str
    pivot: tuple[float, float]
    pixel: float
    height: float = 1.0
    data: bytes = field(default=b"", repr=False)


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
        changed_by: who changed it last; empty of older cards.
        frame: camera of the picture, the figure in the middle of the stage.
        anchor: where the part of the body that the picture is of was then; None of older cards.
        around: how the figure stood in the picture where the pose holds nothing.
        style, ground: how the picture is shaded, and whether the background is in it.
        own_picture: the picture was brought from elsewhere; it is not drawn again among others.
        approved_by, approved_at: who locked it and when; empty if nobody did.
        source, source_frame: the shot or motion it was taken from, and the frame there.
        clip: what moves; then ``pose`` is how it begins.
        carried: how the figure stood, for rigs that are not this one; nothing of older cards.
        drawing: a drawing that the card brings along; then ``pose`` is the choice of it.
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
    changed_by: str = ""
    frame: Camera | None = None
    anchor: Anchor | None = None
    around: Pose = field(default_factory=lambda: Pose({}))
    style: StyleName = "shaded"
    ground: bool = True
    own_picture: bool = False
    approved_by: str = ""
    approved_at: str = ""
    source: str = ""
    source_frame: float | None = None
    kind: KindName = "pose"
    clip: Clip | None = None
    carried: Carried = field(default_factory=Carried)
    drawing: CardDrawing | None = None

    @property
    def locked(self) -> bool:
        return bool(self.approved_by or self.approved_at)


def to_file(card: Card) -> CardFile:
    """The document of ``card.json``."""
    frame = card.frame
    return CardFile(
        format="fox-hand card",
        version=VERSION if card.drawing is not None else 2 if card.clip is not None else 1,
        id=card.identity,
        name=card.name,
        controls={name: held_file(held) for name, held in card.pose.controls.items()},
        revision=card.revision,
        region=card.region.value,
        side=card.side,
        tags=list(card.tags),
        note=card.note,
        author=card.author,
        licence=card.licence,
        created=card.created,
        changed=card.changed,
        changed_by=card.changed_by,
        character=CharacterFile(card.character, card.fingerprint) if card.character else None,
        frame=None if frame is None else _frame_file(frame, card),
        kind=card.kind,
        approved=ApprovedFile(card.approved_by, card.approved_at) if card.locked else None,
        taken=TakenFile(card.source, card.source_frame) if card.source else None,
        clip=_clip_file(card.clip) if card.clip is not None else None,
        own_picture=card.own_picture,
        carried=carried_file(card.carried),
        drawing=None if card.drawing is None else _drawing_file(card.drawing),
    )


def _drawing_file(drawing: CardDrawing) -> DrawingFile:
    return DrawingFile(drawing.name, drawing.part, drawing.pivot, drawing.pixel, drawing.height)


def _drawing(file: DrawingFile) -> CardDrawing:
    name, part = plain_name(file.name), plain_name(file.part)
    return CardDrawing(name, part, file.pivot, file.pixel, file.height)


def _clip_file(clip: Clip) -> ClipFile:
    return ClipFile(clip.length, clip.rate, kept_lines(clip.lines))


def _frame_file(camera: Camera, card: Card) -> FrameFile:
    yaw, pitch, fov, roll = (
        float(np.degrees(v)) for v in (camera.yaw, camera.pitch, camera.fov, camera.roll)
    )
    return FrameFile(
        camera.target,
        yaw,
        pitch,
        camera.distance,
        fov,
        roll,
        camera.shift,
        card.style,
        card.ground,
        None if card.anchor is None else _anchor_file(card.anchor),
        {name: held_file(held) for name, held in card.around.controls.items()},
    )


def _anchor_file(anchor: Anchor) -> AnchorFile:
    return AnchorFile(anchor.control, anchor.at, anchor.turn)


def held_file(held: Held) -> HeldFile:
    rest = held.rest
    return HeldFile(
        move=held.move,
        turn=held.turn,
        # rounded, so that reading and writing again gives the same number
        euler=None if held.euler is None else _vector(np.round(np.degrees(held.euler), 12)),
        order=held.order,
        scale=held.scale,
        settings=dict(held.settings),
        options=dict(held.options),
        rest=None
        if rest is None
        else RestFile(
            rest.translation,
            rest.rotation,
            rest.scale,
            rest.world_rotation,
            rest.parent,
            rest.role,
            rest.role_sure,
        ),
    )


def _vector(values: Any) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def from_file(file: CardFile) -> Card:
    """The card that a document describes.

    Raises:
        ValueError: where its numbers make no pose.
    """
    character = file.character or CharacterFile("")
    approved, taken = file.approved or ApprovedFile(), file.taken or TakenFile()
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
        name=plain_name(file.name),
        pose=Pose(controls_of(file.controls)),
        region=Region(file.region),
        side=file.side,
        tags=tuple(t for tag in file.tags if (t := plain_name(tag))),
        note=file.note,
        author=plain_name(file.author),
        licence=file.licence,
        character=character.name,
        fingerprint=character.fingerprint,
        identity=file.id,
        revision=file.revision,
        created=file.created,
        changed=file.changed,
        changed_by=plain_name(file.changed_by),
        frame=camera,
        anchor=_anchor(frame),
        around=Pose(controls_of(frame.around) if frame is not None else {}),
        style=frame.style if frame is not None else "shaded",
        ground=frame.ground if frame is not None else True,
        approved_by=approved.by,
        approved_at=approved.at,
        source=taken.source,
        source_frame=taken.frame,
        kind=file.kind,
        clip=clip_of(file.clip) if file.clip is not None else None,
        own_picture=file.own_picture,
        carried=carried_from(file.carried),
        drawing=None if file.drawing is None else _drawing(file.drawing),
    )


def _anchor(frame: FrameFile | None) -> Anchor | None:
    if frame is None or frame.anchor is None:
        return None
    turn = _unit(frame.anchor.control, frame.anchor.turn)
    return None if turn is None else Anchor(frame.anchor.control, frame.anchor.at, turn)


def clip_of(file: ClipFile) -> Clip:
    """What a file says of a clip."""
    return Clip(lines_from(file.lines), file.length, file.rate)


def controls_of(files: Mapping[str, HeldFile]) -> dict[str, Held]:
    held = {}
    for name, file in files.items():
        rest = file.rest
        held[name] = Held(
            move=file.move,
            turn=_unit(name, file.turn),
            euler=None if file.euler is None else _vector(np.radians(file.euler)),
            order=file.order,
            scale=file.scale,
            settings=file.settings,
            options=file.options,
            rest=None
            if rest is None
            else RestFrame(
                rest.parent,
                rest.translation,
                rest.rotation,
                rest.scale,
                rest.world_rotation,
                rest.role,
                rest.role_sure,
            ),
        )
    return held


def _unit(
    name: str, q: tuple[float, float, float, float] | None
) -> tuple[float, float, float, float] | None:
    """Turns written by hand may not be of unit length; those of this program stay bit for bit.

    Raises:
        ValueError: for one of no length, which is no turn.
    """
    if q is None:
        return None
    length = float(np.linalg.norm(q))
    if abs(length - 1) < 1e-9:
        return q
    if length < 1e-9:
        raise ValueError(f"the turn of {plain_name(name)} has no length")
    return (q[0] / length, q[1] / length, q[2] / length, q[3] / length)
