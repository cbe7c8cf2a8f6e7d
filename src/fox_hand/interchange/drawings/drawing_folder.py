"""A folder of drawings: folders in it are parts or views, files are drawings.

Files are taken in the order of their names; numbers in front of names say the order and are no
part of them: ``01 beak.png`` lies in front of ``02 head.png``.
"""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import MEGABYTE, read_file
from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.core.puppet.drawn import DrawnFigure, PartDrawing
from fox_hand.interchange.drawings.layers import (
    KEPT,
    MOST_LAYERS,
    Group,
    Layer,
    drawing_of,
    figure_of,
)
from fox_hand.interchange.drawings.svg import SvgRefusedError, svg_picture

PICTURES = frozenset({".png", ".webp", ".svg"})
LARGEST_FILE = 512 * MEGABYTE
DEEPEST = 4
NUMBER = re.compile(r"^\d+[\s._-]+(?=\D)")
PIECES = re.compile(r"(\d+)")


def read_folder(folder: Path, progress: Progress) -> DrawnFigure:
    """Parts and drawings of a folder.

    Raises:
        FoxHandError: if it holds no drawings, or far too many.
        OSError: if it cannot be listed.
        Cancelled: by the progress.
    """
    return _FolderReader(folder, progress).figure()


class _FolderReader:
    def __init__(self, folder: Path, progress: Progress) -> None:
        self._folder, self._progress = folder, progress
        self._real = folder.resolve()
        self._notes: list[str] = []
        self._read = 0

    def figure(self) -> DrawnFigure:
        self._folder.iterdir()
        top = self._members(self._folder, 0)
        sizes = [(d.width, d.height) for d in _drawings(top)]
        width, height = max((s[0] for s in sizes), default=0), max((s[1] for s in sizes), default=0)
        loose = _placed(top, width, height)
        if loose:
            self._notes.append(
                tr_n(
                    "{number} of {count} drawings is smaller than the canvas of {width} by "
                    "{height} pixels; it lies in its middle until it is moved.",
                    "{number} of {count} drawings are smaller than the canvas of {width} by "
                    "{height} pixels; they lie in its middle until they are moved.",
                    loose,
                    count=len(sizes),
                    width=width,
                    height=height,
                )
            )
        return figure_of(self._folder.name, (width, height), top, self._notes)

    def _members(self, folder: Path, deep: int) -> list[Layer | Group]:
        found: list[Layer | Group] = []
        for path in sorted(folder.iterdir(), key=_order):
            if path.name.startswith("."):
                continue
            if not self._inside(path):
                self._notes.append(
                    tr("{name} is left out: it leads out of the folder.", name=path.name)
                )
            elif path.is_dir():
                if deep < DEEPEST:
                    found.append(Group(drawing_name(path.name), self._members(path, deep + 1)))
            elif path.suffix.lower() in PICTURES:
                layer = self._layer(path)
                if layer is not None:
                    found.append(layer)
        return found

    def _inside(self, path: Path) -> bool:
        if not path.is_symlink():
            return True
        try:
            return path.resolve().is_relative_to(self._real) and not path.is_dir()
        except (OSError, RuntimeError):  # in a circle
            return False

    def _layer(self, path: Path) -> Layer | None:
        self._read += 1
        if self._read > MOST_LAYERS:
            raise FoxHandError(
                "drawings.too_many",
                tr(
                    "{name} holds more than {most_layers:,} drawings.",
                    name=self._folder.name,
                    most_layers=MOST_LAYERS,
                ),
                KEPT,
                tr("Choose the folder of one character."),
            )
        self._progress.step(0.0, tr("Reading drawings, {read} so far", read=self._read))
        name, source = drawing_name(path.stem), path.relative_to(self._folder).as_posix()
        try:
            data = read_file(path, LARGEST_FILE)
            if path.suffix.lower() == ".svg":
                data = svg_picture(data)
        except SvgRefusedError as error:
            self._notes.append(tr("{name} is left out: {error}.", name=path.name, error=error))
            return None
        except OSError as error:
            self._notes.append(
                tr(
                    "{name} is left out: {strerror}.",
                    name=path.name,
                    strerror=error.strerror or error,
                )
            )
            return None
        drawing = drawing_of(name, data, self._notes, source)
        return None if drawing is None else Layer(name, drawing)


def _order(path: Path) -> tuple[tuple[int, int, str], ...]:
    """By name, numbers by how large they are."""
    pieces = PIECES.split(path.name.lower())
    return tuple((0, int(p), "") if p.isdigit() else (1, 0, p) for p in pieces if p)


def drawing_name(stem: str) -> str:
    """What a file or folder is called without the number that says its order."""
    return NUMBER.sub("", stem).replace("_", " ").strip() or stem


def _drawings(members: list[Layer | Group]) -> list[PartDrawing]:
    found = []
    for one in members:
        found += [one.drawing] if isinstance(one, Layer) else _drawings(one.members)
    return found


def _placed(members: list[Layer | Group], width: int, height: int) -> int:
    """Lay smaller drawings into the middle of the canvas; how many there are."""
    count = 0
    for one in members:
        if isinstance(one, Group):
            count += _placed(one.members, width, height)
            continue
        drawing = one.drawing
        if (drawing.width, drawing.height) != (width, height):
            left, top = (width - drawing.width) // 2, (height - drawing.height) // 2
            one.drawing = replace(drawing, left=float(left), top=float(top))
            count += 1
    return count
