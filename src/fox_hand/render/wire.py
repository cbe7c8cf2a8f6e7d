"""What travels between the window's process and the one that draws."""

from __future__ import annotations

import io
import pickle
from collections import OrderedDict
from multiprocessing.connection import Connection
from typing import Any

import numpy as np

from fox_hand.base.errors import FoxHandError
from fox_hand.core.rig import Rig
from fox_hand.core.view import Picture, View

RIGS_KEPT = 6


class Sender:
    """Sends views. A rig is large, so it travels once and is named by a number after that."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._known: OrderedDict[Rig, int] = OrderedDict()
        self._count = 0

    def send(self, view: View) -> None:
        """Send a view, and before it the rigs the other side has not seen."""
        for rig in {s.rig: None for s in _standings(view)}:
            if rig in self._known:
                self._known.move_to_end(rig)
                continue
            self._count += 1
            self._known[rig] = self._count
            self._connection.send(("rig", self._count, rig))
            while len(self._known) > RIGS_KEPT:
                self._connection.send(("forget", self._known.popitem(last=False)[1], None))
        buffer = io.BytesIO()
        _Names(buffer, self._known).dump(view)
        self._connection.send(("draw", 0, buffer.getvalue()))


def _standings(view: View) -> list[Any]:
    return [*view.figures, *(c.standing for c in view.contours)]


class _Names(pickle.Pickler):
    def __init__(self, buffer: io.BytesIO, known: OrderedDict[Rig, int]) -> None:
        super().__init__(buffer, protocol=5)
        self._known = known

    def persistent_id(self, obj: object) -> int | None:
        return self._known[obj] if isinstance(obj, Rig) else None


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
    head = (picture.pixels.shape, dict(picture.contours), picture.milliseconds)
    connection.send(("picture", head))
    connection.send_bytes(picture.pixels.tobytes())


def answer_error(connection: Connection, error: Exception) -> None:
    """Send what went wrong."""
    if isinstance(error, FoxHandError):
        parts = (error.code, error.happened, error.kept, error.todo)
    else:
        parts = (
            "render.failed",
            f"The picture could not be drawn ({error}).",
            "The figure and its pose are untouched.",
            "",
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
    shape, contours, milliseconds = head
    pixels = np.frombuffer(connection.recv_bytes(), np.uint8).reshape(shape)
    return Picture(pixels, view, contours, milliseconds)
