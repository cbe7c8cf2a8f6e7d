"""Tells the desktop of this program in the folders of one user or of a whole machine, and takes
away what was told."""

from __future__ import annotations

import json
import shutil
import subprocess
from collections.abc import Mapping
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr

LISTED = "desktop-files.json"
TOOLS = (  # what tells the desktop to look again; a missing one is no problem
    ("update-mime-database", "mime"),
    ("update-desktop-database", "applications"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)


@dataclass(frozen=True)
class DesktopFiles:
    """What came of it.

    Args:
        written, left, removed: files; ``left`` are those of somebody else, which stay.
    """

    written: tuple[Path, ...] = ()
    left: tuple[Path, ...] = ()
    removed: tuple[Path, ...] = ()


def install(share: Path, state: Path, files: Mapping[str, bytes]) -> DesktopFiles:
    """Write the files; those that were written before are written anew, those of somebody else are
    left.

    Args:
        share: the data folder.
        state: where it is remembered what was written.
        files: what, by its place; see ``desktop_files``.

    Raises:
        FoxHandError: ``desktop.write``.
    """
    known, written, left = _known(state), dict[str, str](), list[Path]()
    for place, data in files.items():
        path = share / place
        if path.exists() and _mark(path.read_bytes()) not in (known.get(str(path)), _mark(data)):
            left.append(path)
            continue
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            beside = path.with_name(f".{path.name}.new")
            beside.write_bytes(data)
            beside.replace(path)
        except OSError as error:
            _remember(state, {**known, **written})
            raise FoxHandError(
                "desktop.write",
                tr(
                    "{path} cannot be written ({strerror}).",
                    path=path,
                    strerror=error.strerror or error,
                ),
                tr("What was written before it is there and can be removed again."),
                tr("Make its folder writable, and do it again."),
            ) from error
        written[str(path)] = _mark(data)
    _remember(state, {**known, **written})
    _look_again(share)
    return DesktopFiles(written=tuple(map(Path, written)), left=tuple(left))


def remove(share: Path, state: Path) -> DesktopFiles:
    """Take away what was written; what somebody changed since stays."""
    removed, left = [], []
    for name, mark in _known(state).items():
        path = Path(name)
        if not path.is_file():
            continue
        if _mark(path.read_bytes()) != mark:
            left.append(path)
            continue
        path.unlink()
        removed.append(path)
        _remove_empty(path.parent, share)
    (state / LISTED).unlink(missing_ok=True)
    _look_again(share)
    return DesktopFiles(removed=tuple(removed), left=tuple(left))


def _remove_empty(folder: Path, share: Path) -> None:
    """Folders that hold nothing any more, but never the data folder."""
    while folder != share and folder.is_relative_to(share) and not any(folder.iterdir()):
        folder.rmdir()
        folder = folder.parent


def _look_again(share: Path) -> None:
    for tool, below in TOOLS:
        program, folder = shutil.which(tool), share / below
        if program is not None and folder.is_dir():
            subprocess.run([program, str(folder)], capture_output=True, check=False)


def _mark(data: bytes) -> str:
    return sha256(data).hexdigest()


def _known(state: Path) -> dict[str, str]:
    try:
        found = json.loads((state / LISTED).read_text("utf-8"))
    except (OSError, ValueError):
        return {}
    return {k: v for k, v in found.items() if isinstance(v, str)} if isinstance(found, dict) else {}


def _remember(state: Path, known: Mapping[str, str]) -> None:
    state.mkdir(parents=True, exist_ok=True)
    (state / LISTED).write_text(json.dumps(known, indent=1) + "\n", "utf-8")
