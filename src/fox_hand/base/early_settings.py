"""The settings as they stand in their file, for what is needed before anything else is loaded: the
language, the size, and what the first frame looks like. Nothing is checked or said here; the
session reads the same file with care."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cache
from typing import Any

from fox_hand.base.places import Places


@cache
def early_settings() -> Mapping[str, Any]:
    """What the user's file holds; empty where it cannot be read."""
    try:
        raw = json.loads((Places.of_user().config / "settings.json").read_bytes())
    except (OSError, ValueError, RecursionError):
        return {}
    return raw if isinstance(raw, dict) else {}


def early(name: str, otherwise: Any) -> Any:
    """One of them; ``otherwise`` where it is not there or of another kind."""
    value = early_settings().get(name, otherwise)
    return value if isinstance(value, type(otherwise)) else otherwise
