"""What travels between the window's process and the one that draws."""

from __future__ import annotations

import io
import pickle
import traceback
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import fields
from hashlib import blake2b
from multiprocessing.connection import Connection
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.core.model.mesh import Material, MeshPart, PackedPicture
from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Picture, Standing, View
from fox_hand.render.no_memory import no_memory

RIGS_KEPT = 6  # beyond those that stand on the stage
MESH_FIELDS = tuple(f.name for f in fields(MeshPart) if f.name != "material")
MATERIAL_FIELDS = tuple(f.name for f in fields(Material))


class Sender:
    """Sends views. A rig is large, so it travels once and is named by a number after that; rigs
    that look alike, such as two copies of one file, are one."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._known: OrderedDict[bytes, int] = OrderedDict()
        self._keys: WeakKeyDictionary[Rig, bytes] = WeakKeyDictionary()
        self._count = 0

    def send(self, view: View) -> None:
        """Send a view, and before it the rigs the other side has not seen."""
        wanted: dict[bytes, Rig] = {}
        for standing in _standings(view):
            wanted.setdefault(self._key(standing.rig), standing.rig)
        for key, rig in wanted.items():
            if key in self._known:
                self._known.move_to_end(key)
                continue
            self._count += 1
            self._known[key] = self._count
            self._connection.send(("rig", self._count, rig))
        # those this view needs were used last, so they are never among the ones that go
        while len(self._known) > max(RIGS_KEPT, len(wanted)):
            self._connection.send(("forget", self._known.popitem(last=False)[1], None))
        buffer = io.BytesIO()
        _Names(buffer, lambda rig: self._known[self._key(rig)]).dump(view)
        self._connection.send(("draw", 0, buffer.getvalue()))

    def _key(self, rig: Rig) -> bytes:
        if rig not in self._keys:
            self._keys[rig] = drawing_key(rig)
        return self._keys[rig]


def drawing_key(rig: Rig) -> bytes:
    """The same for rigs that are drawn alike: a digest of geometry, skin, materials and rest."""
    digest = blake2b(digest_size=16)

    def add(*values: Any) -> None:
        for value in values:
            if isinstance(value, np.ndarray):
                digest.update(str((value.dtype, value.shape)).encode())
                digest.update(np.ascontiguousarray(value).data)
            elif isinstance(value, PackedPicture):
                digest.update(value.data)
            else:
                digest.update(repr(value).encode())

    skeleton = rig.skeleton
    add(skeleton.parents, skeleton.translation, skeleton.rotation, skeleton.scale)
    add(rig.palette_nodes, rig.inverse_binds, rig.joint_nodes, *rig.rest_bounds)
    add(sorted(rig.opacities.items()))
    for part in rig.parts:
        for name in MESH_FIELDS:
            add(name, getattr(part, name))
        for name in MATERIAL_FIELDS:
            add(name, getattr(part.material, name))
    return digest.digest()


def _standings(view: View) -> list[Standing]:
    return [*view.figures, *view.backdrops, *(c.standing for c in view.contours)]


class _Names(pickle.Pickler):
    def __init__(self, buffer: io.BytesIO, number: Callable[[Rig], int]) -> None:
        super().__init__(buffer, protocol=5)
        self._number = number

    def persistent_id(self, obj: object) -> int | None:
        return self._number(obj) if isinstance(obj, Rig) else None


class _Found(pickle.Unpickler):
    def __init__(self, data: bytes, rigs: dict[int, Rig]) -> None:
        super().__init__(io.BytesIO(data))
        self._rigs = rigs

    def persistent_load(self, pid: int) -> Rig:
        return self._rigs[pid]


def read_view(data: bytes, rigs: dict[int, Rig]) -> View:
    """A view out of a message."""
    view = _Found(data, rigs).load()
    assert isinstance(view, View)
    return view


def answer(connection: Connection, picture: Picture) -> None:
    """Send a finished picture back; the pixels go raw."""
    said = picture.milliseconds, picture.unfinished
    head = (picture.pixels.shape, dict(picture.contours), *said)
    connection.send(("picture", head))
    connection.send_bytes(picture.pixels.tobytes())


def answer_error(connection: Connection, error: Exception) -> None:
    """Send what went wrong; what the interpreter says of it is for the log alone."""
    if isinstance(error, MemoryError):
        error = no_memory("".join(traceback.format_exception(error)))
    if isinstance(error, FoxHandError):
        parts = (error.code, error.happened, error.kept, error.todo, error.detail)
    else:
        parts = (
            "render.failed",
            tr("A picture could not be drawn: the drawing process met a fault of its own."),
            tr("The figure and its pose are untouched."),
            tr("Go on working; if it comes back, Help > About has the details to copy."),
            "".join(traceback.format_exception(error)),
        )
    connection.send(("error", parts))


def receive(connection: Connection, view: View) -> Picture:
    """Wait for the answer to a view.

    Raises:
        FoxHandError: what the other side reports.
        EOFError, OSError: it has ended.
    """
    kind, head = connection.recv()
    if kind == "error":
        raise FoxHandError(*head)
    shape, contours, *said = head
    pixels = np.frombuffer(connection.recv_bytes(), np.uint8).reshape(shape)
    return Picture(pixels, view, contours, *said)
