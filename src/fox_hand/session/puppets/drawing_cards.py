"""Drawings as cards by themselves: taken from a puppet's part, and fit for the part of another."""

from __future__ import annotations

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.pictures import opened_picture
from fox_hand.base.language import tr
from fox_hand.core.animation.curves import ChannelId, ChannelKind
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.rig.rig import Rig
from fox_hand.core.rig.swaps import Swap
from fox_hand.interchange.puppets.puppet_adding import NewDrawing
from fox_hand.library.format.card import CardDrawing


def drawing_of(rig: Rig, row: int, number: int) -> CardDrawing | None:
    """One of a part's drawings, with where it turns and how large it is; None where the part has
    none, or one whose picture is not kept packed.

    Args:
        rig: the puppet.
        row: the part's control.
        number: of the drawing.
    """
    swap = rig.swaps.get(row)
    nodes = own_nodes(rig, row) if swap is None else swap.nodes
    if not 0 <= number < len(nodes):
        return None
    part = _drawn(rig, nodes[number])
    if part is None or part.material.drawing is None:
        return None
    picture, label = part.material.drawing, rig.controls[row].label
    low, high = part.positions.min(0), part.positions.max(0)
    pixel = float(high[0] - low[0]) / picture.width
    name = label if swap is None else swap.names[number]
    pivot = -float(low[0]) / pixel, float(high[1]) / pixel
    return CardDrawing(name, label, pivot, pixel, rig.height, picture.data)


def choice_of_drawing(rig: Rig, swap: Swap) -> ChannelId:
    """What a card of a drawing holds of its own puppet."""
    return ChannelId(ChannelKind.SETTING, rig.settings[swap.setting].name)


def fitted(drawing: CardDrawing, rig: Rig) -> NewDrawing:
    """A card's drawing for a part of a puppet: as large in proportion as it was on its own.

    Raises:
        FoxHandError: ``puppet.no_drawing`` if its picture cannot be decoded.
    """
    try:
        with opened_picture(drawing.data) as picture:
            width, height = picture.size
            picture.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise FoxHandError(
            "puppet.no_drawing",
            tr("The drawing {name} cannot be decoded.", name=drawing.name),
            tr("The puppet is as it was."),
        ) from error
    pixel = drawing.pixel * rig.height / drawing.height
    return NewDrawing(drawing.name, drawing.data, width, height, drawing.pivot, pixel)


def already_there(rig: Rig, row: int, drawing: CardDrawing) -> int | None:
    """The number of the very same drawing among those of a part; None where it is new there."""
    swap = rig.swaps.get(row)
    for number, node in enumerate(() if swap is None else swap.nodes):
        part = _drawn(rig, node)
        packed = None if part is None else part.material.drawing
        if packed is not None and packed.data == drawing.data:
            return number
    return None


def own_nodes(rig: Rig, row: int) -> tuple[int, ...]:
    """The nodes of a part's drawings."""
    node = rig.controls[row].node
    return tuple(c.node for c in rig.controls if c.helper and rig.skeleton.parents[c.node] == node)


def _drawn(rig: Rig, node: int) -> MeshPart | None:
    for part in rig.parts:
        if rig.palette_nodes[int(part.joints[0, 0])] == node:
            return part
    return None


def part_under(rig: Rig, nodes: np.ndarray, x: float, y: float) -> int | None:
    """The part whose drawing is seen at a place of the stage, the foremost; None for none.

    Args:
        rig: the puppet.
        nodes: world matrices of its nodes, ``(N, 4, 4)``.
        x, y: metres, in the plane of the drawings.
    """
    found: list[tuple[float, int]] = []
    for part in rig.parts:
        node = int(rig.palette_nodes[int(part.joints[0, 0])])
        matrix, above = nodes[node], rig.skeleton.parents[node]
        row = rig.row_of_node.get(above)
        if row is None or np.abs(matrix[:3, :3]).max() < 0.01 or part.material.drawing is None:
            continue
        flat = matrix[:2, [0, 1, 3]]
        local = np.linalg.solve(flat[:, :2], np.array([x, y]) - flat[:, 2])
        low, high = part.positions.min(0)[:2], part.positions.max(0)[:2]
        share = (local - low) / np.maximum(high - low, 1e-9)
        if (share < 0).any() or (share > 1).any():
            continue
        if _solid(part, float(share[0]), 1.0 - float(share[1])):
            found.append((float(matrix[2, 3]), row))
    return max(found)[1] if found else None


def _solid(part: MeshPart, across: float, down: float) -> bool:
    """Whether anything is drawn at a place of a drawing, shares from its upper left corner."""
    assert part.material.drawing is not None
    with opened_picture(part.material.drawing.data) as picture:
        alpha = picture.convert("RGBA").getchannel("A")
        at = (
            min(int(across * alpha.width), alpha.width - 1),
            min(int(down * alpha.height), alpha.height - 1),
        )
        value = alpha.getpixel(at)
    return isinstance(value, int) and value > 60
