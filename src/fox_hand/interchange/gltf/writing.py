"""Writing glTF 2.0: a file's own description and bytes, with more added to them."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from fox_hand.base.language import tr
from fox_hand.interchange.gltf.document import PREVIEW, damaged, open_parts, read_uri

FLOAT, USHORT = 5126, 5123
GENERATOR = "Fox Hand"
MIMES = {b"\x89PNG": "image/png", b"\xff\xd8\xff": "image/jpeg"}


class GltfFile:
    """A glTF document as plain data, everything binary in one block.

    Args:
        document: the decoded JSON.
        data: the bytes of its only buffer.
    """

    def __init__(self, document: dict[str, Any], data: bytes = b"") -> None:
        self.document, self._data = document, bytearray(data)

    @staticmethod
    def new() -> GltfFile:
        """With nothing in it."""
        return GltfFile({"asset": {"version": "2.0", "generator": GENERATOR}})

    @staticmethod
    def read(path: Path) -> GltfFile:
        """A file whose buffers and pictures are all taken in.

        Raises:
            FoxHandError: if it cannot be read.
        """
        _, buffers, text = open_parts(path)  # which refuses what does not hold together
        document = json.loads(text)
        for key in ("animations", "nodes", "accessors", "bufferViews", "images", "meshes"):
            things = document.get(key, [])
            if not isinstance(things, list) or not all(isinstance(t, dict) for t in things):
                raise damaged(path, tr("its {key} are no list of things", key=key))
        found = GltfFile(document)
        starts = []
        for buffer, data in zip(document.get("buffers", []), buffers, strict=True):
            found._pad()
            starts.append(len(found._data))
            found._data += data[: buffer["byteLength"]]
        for number, view in enumerate(document.get("bufferViews", [])):
            if not 0 <= view["buffer"] < len(starts):
                raise damaged(
                    path,
                    tr("buffer view {number} lies in a buffer that does not exist", number=number),
                )
            view["byteOffset"] = view.get("byteOffset", 0) + starts[view["buffer"]]
            view["buffer"] = 0
        for image in document.get("images", []):
            if image.get("uri") is not None:
                data = read_uri(path, image.pop("uri"))
                image["mimeType"] = next(
                    (mime for head, mime in MIMES.items() if data.startswith(head)), "image/png"
                )
                image["bufferView"] = found._view(data)
        return found

    def _pad(self) -> None:
        self._data += b"\0" * (-len(self._data) % 4)

    def _view(self, data: bytes) -> int:
        self._pad()
        views = self.document.setdefault("bufferViews", [])
        views.append({"buffer": 0, "byteOffset": len(self._data), "byteLength": len(data)})
        self._data += data
        return len(views) - 1

    def floats(self, values: npt.ArrayLike, kind: str, *, bounds: bool = False) -> int:
        """An accessor of 32-bit floats; returns its number.

        Args:
            values: ``(K,)`` or ``(K, w)``.
            kind: ``SCALAR``, ``VEC3``, ...
            bounds: state the least and the greatest value, as times and positions must.
        """
        array = np.ascontiguousarray(values, dtype="<f4")
        flat = array.reshape(len(array), -1)
        accessor: dict[str, Any] = {
            "bufferView": self._view(array.tobytes()),
            "componentType": FLOAT,
            "count": array.size // {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}[kind],
            "type": kind,
        }
        if bounds:
            accessor["min"] = flat.min(0).astype(float).tolist()
            accessor["max"] = flat.max(0).astype(float).tolist()
        accessors = self.document.setdefault("accessors", [])
        accessors.append(accessor)
        return len(accessors) - 1

    def indices(self, values: npt.ArrayLike) -> int:
        """An accessor of indices into vertices; returns its number."""
        array = np.ascontiguousarray(values, dtype="<u2")
        accessors = self.document.setdefault("accessors", [])
        view = self._view(array.tobytes())
        accessors.append(
            {"bufferView": view, "componentType": USHORT, "count": array.size, "type": "SCALAR"}
        )
        return len(accessors) - 1

    def picture(self, data: bytes, name: str, preview: bytes = b"") -> dict[str, Any]:
        """A picture's entry in ``images``, its bytes within the file; ``preview`` is the same,
        small."""
        mime = next((mime for head, mime in MIMES.items() if data.startswith(head)), "image/png")
        entry = {"name": name, "mimeType": mime, "bufferView": self._view(data)}
        return entry | ({"extras": {PREVIEW: self._view(preview)}} if preview else {})

    def glb(self) -> bytes:
        """The whole as a GLB."""
        document = dict(self.document)
        self._pad()
        if self._data:
            document["buffers"] = [{"byteLength": len(self._data)}]
        else:
            document.pop("buffers", None)
        words = json.dumps(document, separators=(",", ":"), ensure_ascii=False)
        # halves of signs, which some files have in names, stay as JSON writes them
        text = words.encode(errors="backslashreplace")
        text += b" " * (-len(text) % 4)
        chunks = struct.pack("<I4s", len(text), b"JSON") + text
        if self._data:
            chunks += struct.pack("<I4s", len(self._data), b"BIN\0") + bytes(self._data)
        return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks
