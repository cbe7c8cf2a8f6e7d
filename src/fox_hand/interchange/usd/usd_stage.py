"""Opening a USD stage, its unit and its up-axis."""

from __future__ import annotations

import importlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import BEYOND
from fox_hand.base.language import tr
from fox_hand.core.maths.rotations import Array
from fox_hand.interchange.usd.inside import check_layers

KEPT = tr("Nothing that was open has changed.")


def module(name: str) -> ModuleType:
    """One of the modules of ``pxr``.

    Raises:
        FoxHandError: ``usd.missing`` where usd-core is not installed.
    """
    try:
        return importlib.import_module(f"pxr.{name}")
    except ImportError as error:
        raise FoxHandError(
            "usd.missing",
            tr("Reading USD files needs the package usd-core, which is not installed."),
            KEPT,
            tr("Start Fox Hand with ./fox-hand --usd once, or install fox-hand[usd]."),
        ) from error


def damaged(path: Path, why: str) -> FoxHandError:
    """The error for a stage that cannot be used."""
    return FoxHandError(
        "usd.damaged", tr("{name} cannot be read as USD: {why}.", name=path.name, why=why), KEPT
    )


def open_stage(path: Path) -> Any:
    """A ``Usd.Stage``.

    Raises:
        FoxHandError: ``usd.missing``, ``usd.damaged``, ``usd.outside``, ``file.read``.
    """
    if not path.exists():
        raise FoxHandError(
            "file.read", tr("{name} cannot be read (it is not there).", name=path.name), KEPT
        )
    usd, tf = module("Usd"), module("Tf")
    try:
        check_layers(path, module("Sdf"))
        stage = usd.Stage.Open(str(path))
    except (tf.ErrorException, UnicodeDecodeError) as error:
        raise damaged(path, first_line(error)) from error
    if stage is None:
        raise damaged(path, tr("it has no stage"))
    return stage


@contextmanager
def sound(path: Path) -> Iterator[None]:
    """What the library raises while a stage is read becomes a sentence.

    Raises:
        FoxHandError: ``usd.damaged``.
    """
    try:
        yield
    except (module("Tf").ErrorException, UnicodeDecodeError) as error:
        raise damaged(path, first_line(error)) from error
    except (RuntimeError, TypeError, ValueError, OverflowError) as error:
        # attributes of another type than the schema says, prims that are none
        raise damaged(path, tr("its parts do not fit each other")) from error


def first_line(error: Exception) -> str:
    """What a library says went wrong, short enough for a sentence."""
    try:
        said = str(error)
    except UnicodeDecodeError:  # the library quotes the damaged bytes
        said = tr("it is damaged")
    lines = [line.strip() for line in said.splitlines() if line.strip()]
    text = lines[-1] if lines else tr("unknown error")
    return text.split("--", 1)[-1].strip()[:160]


def ground(stage: Any, metres_per_unit: float | None) -> tuple[Array, list[str]]:
    """What turns stage places into metres with Y up, ``(4, 4)``, and sentences about it.

    Args:
        stage: a ``Usd.Stage``.
        metres_per_unit: what a person has said; None takes what the stage says, and where it
            says nothing USD's own fallback, centimetres (UsdGeom, "Encoding Stage Linear
            Units"), which is then said.
    """
    geom = module("UsdGeom")
    notes = []
    size = metres_per_unit
    if size is None:
        size = float(geom.GetStageMetersPerUnit(stage))
        if not geom.StageHasAuthoredMetersPerUnit(stage):
            notes.append(
                tr(
                    "The file does not say its unit; USD's own fallback, centimetres, was used. "
                    "metres_per_unit in the sidecar says otherwise."
                )
            )
        if not 1 / BEYOND < size < BEYOND:
            size = 0.01
            notes.append(tr("The file says a unit that cannot be; centimetres were used."))
    found = np.eye(4)
    found[:3, :3] *= size
    if geom.GetStageUpAxis(stage) == geom.Tokens.z:
        # own forward is -Y and own left +X where Z is up
        turn = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]])
        found[:3, :3] = found[:3, :3] @ turn
    return found, notes


def column_matrix(matrix: Any) -> Array:
    """A ``Gf.Matrix4d``, which multiplies row vectors, for column vectors ``(4, 4)``."""
    return np.array(matrix, dtype=np.float64).T


def column_matrices(matrices: Any) -> Array:
    """The same for arrays of them, ``(N, 4, 4)``."""
    return np.array([np.array(m, dtype=np.float64).T for m in matrices]).reshape(-1, 4, 4)


def layers(path: Path) -> list[Path]:
    """All files a stage is made of.

    Raises:
        FoxHandError: if it cannot be read.
    """
    stage = open_stage(path)  # whose layers go when it goes
    with sound(path):
        return [Path(layer.realPath) for layer in stage.GetUsedLayers() if layer.realPath]
