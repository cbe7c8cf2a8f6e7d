"""OpenRaster files: a ZIP archive of a ``stack.xml`` and layers as PNG.

Follows the OpenRaster Layer Stack Specification (baseline, version 0.0.5): ``mimetype`` comes
first and is stored; offsets of layers are canvas pixels, y downwards.
"""

from __future__ import annotations

import io
import xml.etree.ElementTree as ET
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.archive import BROKEN, opened_archive, read_member, why_broken
from fox_hand.base.files.inputs import MEGABYTE, MOTION, TooLargeError
from fox_hand.base.language import tr
from fox_hand.base.work import Progress
from fox_hand.core.puppet.drawn import DrawnFigure, Pixels, png
from fox_hand.interchange.drawings.layers import (
    KEPT,
    MOST_LAYERS,
    Group,
    Layer,
    drawing_of,
    figure_of,
)

MIMETYPE = "image/openraster"
PLAIN = "svg:src-over"
STACK = "stack.xml"
MOST_XML = 8 * MEGABYTE
MOST_LAYER = 512 * MEGABYTE
DEEPEST = 40
LARGEST = 1 << 20  # pixels of a canvas that cannot be meant


def damaged(path: Path, why: str) -> FoxHandError:
    """The error for a file whose inside does not hold together."""
    return FoxHandError(
        "drawings.damaged", tr("{name} is damaged: {why}.", name=path.name, why=why), KEPT
    )


def read_open_raster(path: Path, progress: Progress) -> DrawnFigure:
    """Parts and drawings of a layered file.

    Raises:
        FoxHandError: for files that are damaged, foreign or hold no drawings.
        OSError: if it cannot be opened.
        Cancelled: by the progress.
    """
    try:
        with opened_archive(path, MOTION, MOST_LAYERS) as archive:
            return _StackReader(path, archive, progress).figure()
    except BROKEN as error:
        raise damaged(path, why_broken(error)) from error


class _StackReader:
    def __init__(self, path: Path, archive: zipfile.ZipFile, progress: Progress) -> None:
        self._path, self._archive, self._progress = path, archive, progress
        self._names = frozenset(archive.namelist())
        self._notes: list[str] = []
        self._read = self._all = 0

    def figure(self) -> DrawnFigure:
        root = self._stack()
        self._all = sum(1 for _ in root.iter("layer"))
        size = self._number(root, "w", 0.0), self._number(root, "h", 0.0)
        if not all(1 <= side <= LARGEST for side in size):
            raise damaged(self._path, tr("its canvas has no size"))
        top = root.find("stack")
        members = [] if top is None else self._members(top, (0.0, 0.0), 1.0, 0)
        return figure_of(self._path.stem, (round(size[0]), round(size[1])), members, self._notes)

    def _stack(self) -> ET.Element:
        if STACK not in self._names:
            raise FoxHandError(
                "drawings.foreign", tr("{name} is no OpenRaster file.", name=self._path.name), KEPT
            )
        try:
            text = read_member(self._archive, STACK, MOST_XML)
        except TooLargeError as error:
            raise damaged(self._path, tr("{stack} is far too large", stack=STACK)) from error
        if b"<!DOCTYPE" in text or b"<!ENTITY" in text:  # what an attack would be made of
            raise damaged(
                self._path, tr("{stack} declares entities, which no layer stack needs", stack=STACK)
            )
        try:
            return ET.fromstring(text)
        except ET.ParseError as error:
            raise damaged(self._path, tr("{stack} is no XML", stack=STACK)) from error

    def _members(
        self, stack: ET.Element, at: tuple[float, float], opacity: float, deep: int
    ) -> list[Layer | Group]:
        if deep > DEEPEST:
            raise damaged(self._path, tr("its groups lie in each other without end"))
        found: list[Layer | Group] = []
        for one in stack:
            x = at[0] + self._number(one, "x", 0.0)
            y = at[1] + self._number(one, "y", 0.0)
            seen = opacity * min(max(self._number(one, "opacity", 1.0), 0.0), 1.0)
            visible = one.get("visibility", "visible") != "hidden"
            if one.tag == "stack":
                self._mode(one)
                members = self._members(one, (x, y), seen, deep + 1)
                found.append(Group(one.get("name", ""), members, visible))
            elif one.tag == "layer":
                layer = self._layer(one)
                if layer is not None:
                    layer.drawing = replace(layer.drawing, left=x, top=y, opacity=seen)
                    layer.visible = visible
                    found.append(layer)
        return found

    def _layer(self, one: ET.Element) -> Layer | None:
        self._progress.step(self._read / max(self._all, 1), tr("Reading layers"))
        self._read += 1
        source = one.get("src", "")
        name = one.get("name") or PurePosixPath(source).stem
        self._mode(one)
        if source not in self._names:
            self._notes.append(tr("{name} is left out: its picture is not in the file.", name=name))
            return None
        try:
            data = read_member(self._archive, source, MOST_LAYER)
        except TooLargeError as error:
            self._notes.append(
                tr("{name} is left out: {strerror}.", name=name, strerror=error.strerror)
            )
            return None
        except BROKEN as error:
            self._notes.append(
                tr("{name} is left out: {why_broken}.", name=name, why_broken=why_broken(error))
            )
            return None
        drawing = drawing_of(name, data, self._notes, source)
        return None if drawing is None else Layer(name, drawing)

    def _mode(self, one: ET.Element) -> None:
        mode = one.get("composite-op", PLAIN)
        if mode != PLAIN:
            word = mode.removeprefix("svg:").replace("-", " ")
            self._notes.append(
                tr(
                    "{one} is drawn plainly, not as {word}.",
                    one=one.get("name") or tr("A layer"),
                    word=word,
                )
            )

    def _number(self, one: ET.Element, key: str, otherwise: float) -> float:
        try:
            value = float(one.get(key, otherwise))
        except ValueError:
            return otherwise
        return value if abs(value) <= LARGEST else otherwise


@dataclass(frozen=True, eq=False)
class StackLayer:
    """A layer to be written.

    Args:
        name: what it is called.
        pixels: sRGB with straight alpha, ``(height, width, 4)``.
        left, top: of its corner on the canvas, pixels.
        groups: names of the groups around it, the outer first.
        visible: whether it is seen.
        opacity: 0...1.
    """

    name: str
    pixels: Pixels
    left: int
    top: int
    groups: tuple[str, ...] = ()
    visible: bool = True
    opacity: float = 1.0


def open_raster_bytes(size: tuple[int, int], layers: Sequence[StackLayer], merged: Pixels) -> bytes:
    """A layered file.

    Args:
        size: of the canvas, pixels.
        layers: in front first; those of one group follow each other.
        merged: all of it as one picture, ``(height, width, 4)``.
    """
    image = ET.Element("image", {"version": "0.0.5", "w": str(size[0]), "h": str(size[1])})
    stack = ET.SubElement(image, "stack")
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(_member("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        for number, layer in enumerate(layers):
            source = f"data/layer{number:03}.png"
            within = stack
            for group in layer.groups:
                within = _group(within, group)
            words = {"name": layer.name, "src": source, "x": str(layer.left), "y": str(layer.top)}
            words |= {} if layer.visible else {"visibility": "hidden"}
            words |= {} if layer.opacity == 1.0 else {"opacity": f"{layer.opacity:g}"}
            ET.SubElement(within, "layer", words)
            archive.writestr(_member(source), png(layer.pixels), zipfile.ZIP_STORED)
        archive.writestr(_member("mergedimage.png"), png(merged), zipfile.ZIP_STORED)
        archive.writestr(_member("Thumbnails/thumbnail.png"), _small(merged), zipfile.ZIP_STORED)
        text = ET.tostring(image, encoding="UTF-8", xml_declaration=True)
        archive.writestr(_member(STACK), text)
    return buffer.getvalue()


def _group(stack: ET.Element, name: str) -> ET.Element:
    """The group that is begun, or one more."""
    last = stack[-1] if len(stack) else None
    if last is not None and last.tag == "stack" and last.get("name") == name:
        return last
    return ET.SubElement(stack, "stack", {"name": name})


def _small(merged: Pixels) -> bytes:
    from PIL import Image  # noqa: PLC0415 - loading it takes longer than many commands

    picture = Image.fromarray(merged, "RGBA")
    picture.thumbnail((256, 256))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    return buffer.getvalue()


def _member(name: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0))  # equal puppets give equal bytes
    info.external_attr = 0o644 << 16
    return info
