"""The drawing process of window tests: what it has drawn twice is not drawn a third time."""

from __future__ import annotations

import io
from collections import OrderedDict
from collections.abc import Mapping
from hashlib import blake2b
from typing import Any
from weakref import WeakKeyDictionary

from fox_hand.core.rig.rig import Rig
from fox_hand.core.view.render_request import Picture, Pixels, View
from fox_hand.render.renderer import Renderer
from fox_hand.render.wire import _Names, drawing_key

KEPT = 24  # pictures; a stage's takes 1.5 MB
Kept = tuple[Pixels, Mapping[str, tuple[Any, ...]]]  # without the view, which holds figures


class RememberedPictures(Renderer):
    """Hundreds of windows begin with the same stage, faces and figure. The same view of the same
    rigs gives the same picture, which ``tests/render`` looks at; here it is only shown again, and
    only while there is a drawing process that could draw it."""

    def __init__(self) -> None:
        self._seen: set[bytes] = set()
        self._kept: OrderedDict[bytes, Kept] = OrderedDict()
        self._keys: WeakKeyDictionary[Rig, bytes] = WeakKeyDictionary()
        super().__init__()

    def _draw(self, view: View) -> Picture:
        if self._process is None or self._process.poll() is not None or not self.name:
            return super()._draw(view)
        key = self._key(view)
        kept = self._kept.get(key)
        if kept is not None:
            self._kept.move_to_end(key)
            return Picture(kept[0], view, kept[1])
        picture = super()._draw(view)
        if key in self._seen and not picture.unfinished:
            self._kept[key] = picture.pixels, picture.contours
            if len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        self._seen.add(key)
        return picture

    def _key(self, view: View) -> bytes:
        rigs: list[bytes] = []

        def number(rig: Rig) -> int:
            if rig not in self._keys:
                self._keys[rig] = drawing_key(rig)
            rigs.append(self._keys[rig])
            return 0

        buffer = io.BytesIO()
        _Names(buffer, number).dump(view)
        return blake2b(buffer.getvalue() + b"".join(rigs)).digest()
