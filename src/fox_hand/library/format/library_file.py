"""``library.toml``: what a library says about itself."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_toml, wrong_with
from fox_hand.base.files.inputs import read_text
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import write_atomically

VERSION = 1
FOREIGN = tr("library.toml was left as it is.")
KEEP_DAYS = 60


@dataclass(frozen=True)
class KeptSearch:
    """A search under a name.

    Args:
        name: as shown.
        text: what is looked for, as it is typed.
    """

    name: str
    text: str


@dataclass(frozen=True)
class LibraryFile:
    """The content of ``library.toml``.

    Args:
        name: as shown.
        sheets: sheets in the order they are shown; others follow by name.
        keep_days: how long cards that were taken out are kept at least.
        approvers: who may approve and unlock cards; empty for everybody.
        searches: that are kept for everybody, in order.
    """

    name: str
    sheets: tuple[str, ...] = ()
    keep_days: int = KEEP_DAYS
    approvers: tuple[str, ...] = ()
    searches: tuple[KeptSearch, ...] = ()


def read_library_file(folder: Path) -> LibraryFile:
    """Read it.

    Raises:
        FoxHandError: ``library.missing``, ``library.unreachable``, ``library.damaged`` or
            ``version.newer``.
    """
    path = folder / "library.toml"
    raw = _read_toml(path)
    version = raw.get("version")
    if not isinstance(version, int) or version < 1:
        raise FoxHandError(
            "library.damaged", tr("{path} does not say its version.", path=path), FOREIGN
        )
    if version > VERSION:
        raise FoxHandError(
            "version.newer",
            tr(
                "{name} was made by a newer Fox Hand (format {version}; this one reads "
                "up to {version_2}).",
                name=folder.name,
                version=version,
                version_2=VERSION,
            ),
            FOREIGN,
            tr("Update Fox Hand to open it."),
        )
    order, days = raw.get("sheets", []), raw.get("keep_days", KEEP_DAYS)
    return LibraryFile(
        str(raw.get("name") or folder.name),
        _texts(order),
        days if isinstance(days, int) else KEEP_DAYS,
        _texts(raw.get("approvers", [])),
        _searches(raw.get("searches", [])),
    )


def _searches(raw: object) -> tuple[KeptSearch, ...]:
    """Those that are understood, each name once."""
    found: dict[str, KeptSearch] = {}
    for one in raw if isinstance(raw, list) else []:
        name, text = (one.get("name"), one.get("text")) if isinstance(one, dict) else (None, None)
        if isinstance(name, str) and isinstance(text, str) and name.strip():
            found.setdefault(name, KeptSearch(name, text))
    return tuple(found.values())


def _texts(raw: object) -> tuple[str, ...]:
    return tuple(s for s in raw if isinstance(s, str)) if isinstance(raw, list) else ()


def _read_toml(path: Path) -> dict[str, Any]:
    try:
        return decode_toml(read_text(path))
    except FileNotFoundError as error:
        if not path.parent.is_dir():
            raise unreachable(path.parent, error) from error
        raise FoxHandError(
            "library.missing",
            tr("{parent} is not a library: it has no library.toml.", parent=path.parent),
            "",
        ) from error
    except OSError as error:
        raise unreachable(path.parent, error) from error
    except ValueError as error:
        raise FoxHandError(
            "library.damaged",
            tr("{path} cannot be read: {wrong_with}.", path=path, wrong_with=wrong_with(error)),
            FOREIGN,
        ) from error


def unreachable(folder: Path, error: OSError) -> FoxHandError:
    """What to say of a library that is away."""
    return FoxHandError(
        "library.unreachable",
        tr(
            "{folder} cannot be reached ({strerror}).",
            folder=folder,
            strerror=error.strerror or error,
        ),
        tr("Nothing in it was changed."),
        tr("Try again when it can be reached."),
    )


def write_library_file(folder: Path, file: LibraryFile) -> None:
    """Write it.

    Raises:
        FoxHandError: ``file.write``.
    """
    lines = [
        f"version = {VERSION}",
        f"name = {toml_text(file.name)}",
        f"sheets = {toml_list(file.sheets)}",
    ]
    if file.keep_days != KEEP_DAYS:
        lines.append(f"keep_days = {file.keep_days}")
    if file.approvers:
        lines.append(f"approvers = {toml_list(file.approvers)}")
    for search in file.searches:
        lines += [
            "",
            "[[searches]]",
            f"name = {toml_text(search.name)}",
            f"text = {toml_text(search.text)}",
        ]
    write_atomically(folder / "library.toml", ("\n".join(lines) + "\n").encode())


def toml_text(text: str) -> str:
    """A text as a TOML basic string."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + re.sub(r"[\x00-\x1f\x7f]", " ", escaped) + '"'


def toml_list(texts: tuple[str, ...]) -> str:
    """Texts as a TOML array. File names that are no text cannot be in one and are left out."""
    return f"[{', '.join(toml_text(t) for t in texts if _is_text(t))}]"


def _is_text(name: str) -> bool:
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True
