"""A puppet as it stands, as a layered file: a layer for each part that is seen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.model.mesh import MeshPart
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Pixels, Quality, Standing, View
from fox_hand.core.view.true_size import true_size
from fox_hand.core.view.usual_views import seen_from
from fox_hand.interchange.drawings.open_raster import StackLayer, open_raster_bytes
from fox_hand.library.files.atomic import write_atomically

LARGEST = 4096  # pixels of the canvas's longer side
MARGIN = 16  # pixels around what is drawn
SEEN = 0.01
NARROW = float(np.radians(0.05))  # next to no perspective
Draw = Callable[[View], Pixels]


def write_layers(path: Path, standing: Standing, draw: Draw, progress: Progress) -> int:
    """Write what is seen of a puppet as OpenRaster, as large as it was drawn; returns how many
    layers.

    Args:
        path: ``.ora``.
        standing: the puppet.
        draw: draws a view.
        progress: of long work.

    Raises:
        FoxHandError: ``layers.no_puppet`` for figures that are not drawn, ``file.write``.
        Cancelled: by the progress; nothing is written then.
    """
    rig = standing.rig
    drawn = true_size(rig, standing.at)
    if not rig.flat or drawn is None:
        raise FoxHandError(
            "layers.no_puppet",
            tr("{name} is not cut out of drawings, so it has no layers.", name=rig.name),
            tr("Nothing was written."),
            tr("Take a picture of it instead."),
        )
    parts = _seen(standing)
    camera, size = _framed(standing, drawn.fine)
    layers: list[StackLayer] = []
    for number, part in enumerate(parts):
        progress.step(
            number / (len(parts) + 1),
            tr("Layer {number} of {count}", number=number + 1, count=len(parts)),
        )
        alone = Standing(replace(rig, parts=(part,)), standing.at)
        pixels = _straight(draw(_view(alone, camera, size)))
        rows, columns = np.nonzero(pixels[..., 3])
        if len(rows):
            top, left = int(rows.min()), int(columns.min())
            cut = pixels[top : rows.max() + 1, left : columns.max() + 1]
            layers.append(StackLayer(_label(standing, part), cut, left, top))
    progress.step(len(parts) / (len(parts) + 1), tr("All of it"))
    merged = _straight(draw(_view(standing, camera, size)))
    write_atomically(path, open_raster_bytes(size, layers, merged))
    return len(layers)


def _seen(standing: Standing) -> list[MeshPart]:
    """The drawings that are seen, in front first."""
    found: list[tuple[float, MeshPart]] = []
    for part in standing.rig.parts:
        matrix = standing.at.palette[int(part.joints[0, 0])]
        if np.abs(matrix[:3, :3]).max() >= SEEN:
            middle = matrix[:3, :3] @ part.positions.mean(0, dtype=np.float64) + matrix[:3, 3]
            found.append((float(middle[2]), part))
    return [part for _, part in sorted(found, key=lambda one: -one[0])]


def _framed(standing: Standing, fine: float) -> tuple[Camera, tuple[int, int]]:
    """All of it, a pixel for each of the drawings' unless that is too large."""
    points = standing.rig.flesh(standing.at)
    low, high = points[:, :2].min(0), points[:, :2].max(0)
    wide, tall = (np.ceil((high - low) * fine) + 2 * MARGIN).astype(int)
    scale = min(1.0, LARGEST / max(wide, tall))
    size = max(int(wide * scale), 1), max(int(tall * scale), 1)
    middle = (low + high) / 2
    own = seen_from(standing.rig, 0.0, 0.0)
    away = size[1] / (fine * scale) / 2 / np.tan(NARROW / 2)
    target = (float(middle[0]), float(middle[1]), 0.0)
    return replace(own, target=target, distance=float(away), fov=NARROW), size


def _view(standing: Standing, camera: Camera, size: tuple[int, int]) -> View:
    return View((standing,), camera, *size, Quality.CARD, background=False)


def _label(standing: Standing, part: MeshPart) -> str:
    rig = standing.rig
    node = int(rig.palette_nodes[int(part.joints[0, 0])])
    row = rig.row_of_node.get(rig.skeleton.parents[node])
    return part.name if row is None else rig.controls[row].label


def _straight(pixels: Pixels) -> Pixels:
    """With straight alpha, ``(height, width, 4)``."""
    alpha = pixels[..., 3:].astype(np.float32)
    colours = pixels[..., :3] * 255.0 / np.maximum(alpha, 1.0)
    return np.concatenate([np.clip(np.round(colours), 0, 255), alpha], axis=2).astype(np.uint8)
