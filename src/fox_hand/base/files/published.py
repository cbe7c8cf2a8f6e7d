"""JSON Schemas as they are published in ``docs/format``."""

from __future__ import annotations

import inspect
from typing import Any

import msgspec


def published(kind: type[msgspec.Struct], title: str) -> bytes:
    """The JSON Schema (draft 2020-12) of a kind of file."""
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": title}
    whole = _cleaned({**head, **msgspec.json.schema(kind)})
    return msgspec.json.format(msgspec.json.encode(whole), indent=2) + b"\n"


def _cleaned(value: Any) -> Any:
    """Descriptions come from docstrings, which Python 3.13 stores without their indentation and
    earlier ones with it."""
    if isinstance(value, dict):
        return {
            key: inspect.cleandoc(inner)
            if key == "description" and isinstance(inner, str)
            else _cleaned(inner)
            for key, inner in value.items()
        }
    return [_cleaned(inner) for inner in value] if isinstance(value, list) else value
