"""JSON Schemas as they are published in ``docs/format``."""

from __future__ import annotations

import msgspec


def published(kind: type[msgspec.Struct], title: str) -> bytes:
    """The JSON Schema (draft 2020-12) of a kind of file."""
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": title}
    whole = {**head, **msgspec.json.schema(kind)}
    return msgspec.json.format(msgspec.json.encode(whole), indent=2) + b"\n"
