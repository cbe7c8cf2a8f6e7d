"""The bytes of a GLB file (glTF 2.0): accessors as they are filled, and the chunks."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

FLOAT, UBYTE, USHORT, UINT = 5126, 5121, 5123, 5125
VERTICES, ELEMENTS = 34962, 34963


class Binary:
    """Buffer views and accessors as they are filled."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def view(self, raw: bytes, target: int | None = None) -> int:
        self.data += bytes(-len(self.data) % 4)
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw)}
        if target is not None:
            view["target"] = target
        self.data += raw
        self.views.append(view)
        return len(self.views) - 1

    def accessor(
        self,
        values: npt.NDArray[Any],
        kind: str,
        component: int,
        *,
        target: int | None = None,
        normalized: bool = False,
        bounds: bool = False,
    ) -> int:
        entry: dict[str, Any] = {
            "bufferView": self.view(np.ascontiguousarray(values).tobytes(), target),
            "componentType": component,
            "count": len(values),
            "type": kind,
        }
        if normalized:
            entry["normalized"] = True
        if bounds:
            entry |= {"min": values.min(0).tolist(), "max": values.max(0).tolist()}
        self.accessors.append(entry)
        return len(self.accessors) - 1

    def sparse(self, values: npt.NDArray[np.float32]) -> int:
        """A VEC3 accessor that stores only the rows that are not zero."""
        rows = np.flatnonzero(np.abs(values).max(1) > 0).astype(np.uint16)
        entry: dict[str, Any] = {
            "componentType": FLOAT,
            "count": len(values),
            "type": "VEC3",
            "min": values.min(0).tolist(),
            "max": values.max(0).tolist(),
        }
        if len(rows):
            entry["sparse"] = {
                "count": len(rows),
                "indices": {"bufferView": self.view(rows.tobytes()), "componentType": USHORT},
                "values": {"bufferView": self.view(values[rows].tobytes())},
            }
        self.accessors.append(entry)
        return len(self.accessors) - 1


def write_chunks(path: Path, document: dict[str, Any], data: bytes) -> None:
    data += bytes(-len(data) % 4)
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    total = 12 + 8 + len(text) + 8 + len(data)
    path.write_bytes(
        struct.pack("<4sII", b"glTF", 2, total)
        + struct.pack("<I4s", len(text), b"JSON")
        + text
        + struct.pack("<I4s", len(data), b"BIN\0")
        + data
    )
