"""Arrays out of a glTF document's buffers (glTF 2.0, 3.6.2)."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from fox_hand.base.language import tr
from fox_hand.core.maths.measurable import measurable
from fox_hand.interchange.gltf.document import Accessor, GltfDocument, damaged

_DTYPES: dict[int, Any] = {
    5120: np.int8,
    5121: np.uint8,
    5122: np.int16,
    5123: np.uint16,
    5125: np.uint32,
    5126: np.float32,
}
MOST = 50_000_000  # rows of an array: far more than any character has
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}


class Accessors:
    """Reads accessors of one document; every range is checked before it is read."""

    def __init__(self, path: Path, document: GltfDocument, buffers: list[bytes]) -> None:
        self._path = path
        self._document = document
        self._buffers = buffers

    def floats(self, index: int) -> npt.NDArray[np.float32]:
        """Accessor values as floats, ``(count, width)``; normalised integers become 0...1 or
        -1...1 by the specification's formulas.

        Raises:
            FoxHandError: also where one of them is no number.
        """
        values = self.loose_floats(index)
        if not measurable(values):
            raise damaged(
                self._path, tr("accessor {index} holds what is no number of a figure", index=index)
            )
        return values

    def loose_floats(self, index: int) -> npt.NDArray[np.float32]:
        """The same, with whatever stands in place of numbers."""
        accessor = self._accessor(index)
        values = self._values(accessor)
        if accessor.normalized and values.dtype.kind in "iu":
            top = float(np.iinfo(values.dtype).max)
            return np.asarray(
                np.maximum(values.astype(np.float32) / np.float32(top), np.float32(-1))
            )
        return values.astype(np.float32)

    def integers(self, index: int) -> npt.NDArray[np.int32]:
        """Accessor values as integers, ``(count, width)``."""
        return self._values(self._accessor(index)).astype(np.int32)

    def view(self, index: int) -> bytes:
        """The bytes of a buffer view."""
        if not 0 <= index < len(self._document.buffer_views):
            raise damaged(self._path, tr("buffer view {index} does not exist", index=index))
        view = self._document.buffer_views[index]
        if not 0 <= view.buffer < len(self._buffers):
            raise damaged(self._path, tr("buffer {buffer} does not exist", buffer=view.buffer))
        data = self._buffers[view.buffer]
        if min(view.byte_offset, view.byte_length) < 0 or view.byte_offset + view.byte_length > len(
            data
        ):
            raise damaged(self._path, tr("buffer view {index} reaches past the end", index=index))
        return data[view.byte_offset : view.byte_offset + view.byte_length]

    def _accessor(self, index: int) -> Accessor:
        if not 0 <= index < len(self._document.accessors):
            raise damaged(self._path, tr("accessor {index} does not exist", index=index))
        return self._document.accessors[index]

    def _values(self, accessor: Accessor) -> npt.NDArray[Any]:
        if accessor.component_type not in _DTYPES or accessor.type not in _WIDTHS:
            raise damaged(self._path, tr("an accessor has an unknown type"))
        if not 0 <= accessor.count <= MOST:
            raise damaged(self._path, tr("an accessor has a count that cannot be"))
        dtype, width = np.dtype(_DTYPES[accessor.component_type]), _WIDTHS[accessor.type]
        if accessor.buffer_view is None:
            values = np.zeros((accessor.count, width), dtype=dtype)
        else:
            values = self._read(
                accessor.buffer_view, accessor.byte_offset, dtype, accessor.count, width
            )
        if accessor.sparse is not None:
            values = self._with_sparse(values.copy(), accessor, dtype, width)
        return values

    def _read(
        self, view_index: int, offset: int, dtype: np.dtype[Any], count: int, width: int
    ) -> npt.NDArray[Any]:
        data = self.view(view_index)
        stride = self._document.buffer_views[view_index].byte_stride or dtype.itemsize * width
        if stride < dtype.itemsize * width:
            raise damaged(
                self._path,
                tr("the rows of buffer view {view_index} overlap", view_index=view_index),
            )
        end = offset + stride * (count - 1) + dtype.itemsize * width if count > 0 else offset
        if count < 0 or offset < 0 or end > len(data):
            raise damaged(self._path, tr("an accessor reaches past the end of its buffer view"))
        return np.ndarray(
            (count, width), dtype, buffer=data, offset=offset, strides=(stride, dtype.itemsize)
        )

    def _with_sparse(
        self, values: npt.NDArray[Any], accessor: Accessor, dtype: np.dtype[Any], width: int
    ) -> npt.NDArray[Any]:
        sparse = accessor.sparse
        assert sparse is not None
        try:
            kind = np.dtype(_DTYPES[sparse.indices["componentType"]])
            rows = self._read(
                sparse.indices["bufferView"],
                sparse.indices.get("byteOffset", 0),
                kind,
                sparse.count,
                1,
            )[:, 0]
            new = self._read(
                sparse.values["bufferView"],
                sparse.values.get("byteOffset", 0),
                dtype,
                sparse.count,
                width,
            )
        except (KeyError, TypeError, ValueError) as error:
            raise damaged(self._path, tr("a sparse accessor is incomplete")) from error
        if rows.dtype.kind != "u" or (len(rows) and int(rows.max()) >= len(values)):
            raise damaged(self._path, tr("a sparse accessor names a vertex that does not exist"))
        values[rows] = new
        return values
