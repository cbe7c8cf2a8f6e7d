"""What a picture shows, and the picture: the words that session and render share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Literal

import numpy as np
import numpy.typing as npt

from fox_hand.core.kinematics.evaluation import Evaluation
from fox_hand.core.maths.rotations import Array
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.camera import Camera

Pixels = npt.NDArray[np.uint8]


Style = Literal["shaded", "clay", "outline"]  # as lit, without its colours, or as a drawing


class Quality(StrEnum):
    """How much care a picture gets."""

    DRAFT = "draft"  # while something moves
    FULL = "full"  # at rest: smooth edges, fine shadow
    CARD = "card"  # small pictures: supersampled


@dataclass(frozen=True, eq=False)
class Standing:
    """A figure in one pose."""

    rig: Rig
    at: Evaluation


@dataclass(frozen=True, eq=False)
class Contour:
    """An outline asked for along with a picture.

    Args:
        name: key of the answer.
        standing: whose outline.
        nodes: skeleton nodes whose flesh is outlined; None for the whole figure.
    """

    name: str
    standing: Standing
    nodes: frozenset[int] | None = None


@dataclass(frozen=True, eq=False)
class View:
    """A picture to be made.

    Args:
        figures: who is in it.
        camera: from where.
        width, height: pixels.
        quality: see :class:`Quality`.
        background: paper ground and floor shadow; without it the ground is transparent.
        contours: outlines to trace in the same frame.
        style: how the figures are shaded.
        backdrops: pictures that stand behind the figures and before them; they are no part of
            what is framed, casts shadows or is outlined.
        floor: whether the figures stand on a ground that shows their shadows.
        rough: a fine picture without smoothed edges and with a small shadow, for slow machines.
    """

    figures: tuple[Standing, ...]
    camera: Camera
    width: int
    height: int
    quality: Quality = Quality.FULL
    background: bool = True
    contours: tuple[Contour, ...] = ()
    style: Style = "shaded"
    backdrops: tuple[Standing, ...] = ()
    floor: bool = True
    rough: bool = False


@dataclass(frozen=True, eq=False)
class Picture:
    """A finished picture.

    Args:
        pixels: premultiplied RGBA, first row on top, ``(height, width, 4)``.
        view: what was asked for.
        contours: closed lines in picture pixels, ``(N, 2)`` each, by contour name.
        milliseconds: how long it took to draw.
        unfinished: something is shown by its preview; asked for again it will be finer.
    """

    pixels: Pixels
    view: View
    contours: Mapping[str, tuple[Array, ...]] = field(default_factory=dict)
    milliseconds: float = 0.0
    unfinished: bool = False


Ready = Callable[["Picture | Exception"], None]
