"""Name maps: which names of one rig stand for which of another, kept in the library."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_json, wrong_with
from fox_hand.base.files.inputs import TEXT, read_file
from fox_hand.base.files.versions import upgrade
from fox_hand.base.language import tr
from fox_hand.core.matching.name_match import Rule, Rules
from fox_hand.library.files.atomic import make_folder, write_atomically
from fox_hand.library.format.names import file_stem

FORMAT, VERSION = "fox-hand name map", 1
FOLDER = "maps"
LEFT = tr("It was left as it is.")


@dataclass(frozen=True)
class NameMap:
    """What was said about two rigs.

    Args:
        source, target: names of the rigs.
        rules: for exchanging parts of names.
        names: by source name the target's; None for "nothing here".
    """

    source: str
    target: str
    rules: Rules = field(default_factory=Rules)
    names: Mapping[str, str | None] = field(default_factory=dict)


def map_path(own: Path, source: str, target: str) -> Path:
    """Where the map of two rigs lies; ``own`` is the library's ``.foxhand`` folder."""
    return own / FOLDER / f"{file_stem(source)} to {file_stem(target)}.json"


def read_map(own: Path, source: str, target: str) -> NameMap:
    """The map of two rigs, an empty one if nothing was saved.

    Raises:
        FoxHandError: ``map.damaged`` or ``version.newer``; the file is left.
    """
    path = map_path(own, source, target)
    try:
        raw: Any = decode_json(read_file(path, TEXT), object)
    except (FileNotFoundError, NotADirectoryError):
        return NameMap(source, target)
    except (OSError, ValueError) as error:
        raise _damaged(path, wrong_with(error)) from error
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise _damaged(path, tr("it is not a name map"))
    raw = upgrade(raw, current=VERSION, steps={}, what=tr("name map"))
    names, rules = raw.get("names"), raw.get("rules")
    return NameMap(
        source,
        target,
        Rules(tuple(_rules(rules)), raw.get("any_case") is not False),
        {str(k): v for k, v in names.items() if v is None or isinstance(v, str)}
        if isinstance(names, dict)
        else {},
    )


def _rules(raw: object) -> list[Rule]:
    """Those that are understood; a person may have written the file."""
    items = raw if isinstance(raw, list) else []
    return [
        Rule(item["find"], str(item.get("put", "")), item.get("pattern") is True)
        for item in items
        if isinstance(item, dict) and isinstance(item.get("find"), str)
    ]


def all_maps(own: Path) -> list[NameMap]:
    """Every map that can be read."""
    found = []
    with contextlib.suppress(OSError):
        for path in sorted((own / FOLDER).glob("*.json")):
            with contextlib.suppress(OSError, ValueError, FoxHandError):
                raw: Any = decode_json(read_file(path, TEXT), object)
                found.append(read_map(own, str(raw["source"]), str(raw["target"])))
    return found


def write_map(own: Path, content: NameMap) -> None:
    """Keep a map.

    Raises:
        FoxHandError: ``file.write``.
    """
    path = map_path(own, content.source, content.target)
    document = {
        "format": FORMAT,
        "version": VERSION,
        "source": content.source,
        "target": content.target,
        "any_case": content.rules.any_case,
        "rules": [
            {"find": r.find, "put": r.put, "pattern": r.pattern} for r in content.rules.items
        ],
        "names": dict(sorted(content.names.items())),
    }
    make_folder(path.parent)
    write_atomically(path, msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n")


def _damaged(path: Path, why: str) -> FoxHandError:
    return FoxHandError(
        "map.damaged", tr("{name} cannot be used: {why}.", name=path.name, why=why), LEFT
    )
