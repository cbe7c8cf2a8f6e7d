"""Expressions of a VRM file as values of its morph targets.

VRM 1.0: ``VRMC_vrm.expressions``, preset and custom, ``morphTargetBinds`` by node with weights from
0 to 1. VRM 0.x: ``VRM.blendShapeMaster.blendShapeGroups``, ``binds`` by mesh with weights from 0 to
100 and ``presetName``, which is called here what became of it in 1.0.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fox_hand.base.words import plain_name
from fox_hand.interchange.gltf.document import GltfDocument, open_document

RENAMED = {  # VRM 0.x preset names, and what they are in 1.0
    **{"joy": "happy", "angry": "angry", "sorrow": "sad", "fun": "relaxed"},
    **{"a": "aa", "i": "ih", "u": "ou", "e": "ee", "o": "oh"},
    **{"blink": "blink", "blink_l": "blinkLeft", "blink_r": "blinkRight"},
    **{"lookup": "lookUp", "lookdown": "lookDown"},
    **{"lookleft": "lookLeft", "lookright": "lookRight", "neutral": "neutral"},
}
MOST = 2000


@dataclass(frozen=True)
class Expression:
    """One expression of a file.

    Args:
        name: as the file calls it.
        preset: its name among those of VRM 1.0; empty for one of its own.
        values: by setting of the rig, 0 to 1.
        more: what of it is no shape, in words, such as ``colours``.
    """

    name: str
    preset: str
    values: dict[str, float]
    more: tuple[str, ...] = ()


def read_expressions(path: Path) -> tuple[Expression, ...]:
    """All expressions of a file; none where it is no VRM. What is damaged is left out.

    Raises:
        FoxHandError: if the file cannot be read.
    """
    document, _ = open_document(path)
    found = list(_newer(document)) or list(_older(document))
    return tuple(found[:MOST])


def _newer(document: GltfDocument) -> Iterator[Expression]:
    expressions = _at(document.extensions, "VRMC_vrm", "expressions")
    for kind in ("preset", "custom"):
        for name, one in _items(_at(expressions, kind)):
            values: dict[str, float] = {}
            for bind in _list(_at(one, "morphTargetBinds")):
                node = _at(bind, "node")
                if isinstance(node, int) and 0 <= node < len(document.nodes):
                    _put(values, document.target_names(node), bind, 1.0)
            more = _more(
                one, ("materialColorBinds", "colours"), ("textureTransformBinds", "textures")
            )
            plain = plain_name(name) or "expression"
            yield Expression(plain, plain if kind == "preset" else "", values, more)


def _older(document: GltfDocument) -> Iterator[Expression]:
    groups = _at(document.extensions, "VRM", "blendShapeMaster", "blendShapeGroups")
    for one in _list(groups):
        values: dict[str, float] = {}
        for bind in _list(_at(one, "binds")):
            mesh = _at(bind, "mesh")
            nodes = [i for i, node in enumerate(document.nodes) if node.mesh == mesh]
            if isinstance(mesh, int) and nodes:
                _put(values, document.target_names(nodes[0]), bind, 100.0)
        preset = RENAMED.get(str(_at(one, "presetName") or "").casefold(), "")
        name = plain_name(str(_at(one, "name") or "")) or preset or "expression"
        yield Expression(name, preset, values, _more(one, ("materialValues", "materials")))


def _put(values: dict[str, float], names: list[str], bind: Any, whole: float) -> None:
    index, weight = _at(bind, "index"), _at(bind, "weight")
    number = isinstance(weight, int | float) and math.isfinite(weight)
    if number and isinstance(index, int) and 0 <= index < len(names):
        values[names[index]] = min(max(float(weight) / whole, 0.0), 1.0)


def _more(one: Any, *kinds: tuple[str, str]) -> tuple[str, ...]:
    return tuple(word for key, word in kinds if _list(_at(one, key)))


def _at(value: Any, *keys: str) -> Any:
    for key in keys:
        value = value.get(key) if isinstance(value, dict) else None
    return value


def _items(value: Any) -> list[tuple[str, Any]]:
    return [(str(k), v) for k, v in value.items()] if isinstance(value, dict) else []


def _list(value: Any) -> list[Any]:
    return value if isinstance(value, list) else []
