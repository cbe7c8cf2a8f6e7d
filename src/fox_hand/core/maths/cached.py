"""Values that are computed once and kept beside an object's fields."""

from __future__ import annotations

from dataclasses import fields
from typing import Any


class WithoutCaches:
    """For frozen dataclasses with cached properties: only the fields travel when one is pickled.

    Another thread may be filling a cache at that moment, and the other side computes what it
    needs by itself.
    """

    def __getstate__(self) -> dict[str, Any]:
        return {f.name: getattr(self, f.name) for f in fields(self)}  # type: ignore[arg-type]
