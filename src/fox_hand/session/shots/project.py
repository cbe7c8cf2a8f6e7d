"""``project.toml``: a folder with the libraries, the characters and the shots of one production."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.documents import decode_toml, wrong_with
from fox_hand.base.files.inputs import read_text
from fox_hand.base.language import tr
from fox_hand.library.files.atomic import make_folder, write_atomically
from fox_hand.library.format.library_file import toml_list, toml_text
from fox_hand.session.shots.shot_file import SUFFIX

FILE = "project.toml"
VERSION = 1
KEPT = tr("The file was left as it is.")
SHOTS = "shots"


@dataclass(frozen=True)
class Project:
    """What a project says about itself; all paths are relative to its folder.

    Args:
        folder: where it lies.
        name: as shown.
        rate: frames a second of new shots.
        libraries, rigs: folders of libraries, and character files.
        shots: shots in the order they are shown; others in ``shots/`` follow by name.
    """

    folder: Path
    name: str
    rate: float = 24.0
    libraries: tuple[str, ...] = ()
    rigs: tuple[str, ...] = ()
    shots: tuple[str, ...] = ()

    def path(self, relative: str) -> Path:
        """Where something of it lies."""
        return Path(os.path.normpath(self.folder / relative))

    def relative(self, path: Path) -> str:
        """How it is written down; outside of the project as it is."""
        found = path.absolute()
        inside = found.is_relative_to(self.folder)
        return found.relative_to(self.folder).as_posix() if inside else str(found)

    def shot_paths(self) -> list[Path]:
        """All shots: those it names, then others that lie beside them."""
        named = [self.path(s) for s in self.shots]
        try:
            others = sorted((self.folder / SHOTS).glob(f"*{SUFFIX}"))
        except OSError:
            others = []
        return list(dict.fromkeys([*named, *others]))

    def with_shot(self, path: Path) -> Project:
        """Knowing one more shot."""
        text = self.relative(path)
        return self if text in self.shots else replace(self, shots=(*self.shots, text))


def read_project(folder: Path) -> Project:
    """Read a project.

    Raises:
        FoxHandError: ``project.missing``, ``project.damaged`` or ``version.newer``.
    """
    path = folder / FILE
    try:
        raw: dict[str, Any] = decode_toml(read_text(path))
    except FileNotFoundError as error:
        raise FoxHandError(
            "project.missing",
            tr("{folder} is not a project: it has no {file}.", folder=folder, file=FILE),
            "",
            tr("Choose a folder that has one, or make a new project."),
        ) from error
    except (OSError, ValueError) as error:
        raise FoxHandError(
            "project.damaged",
            tr("{path} cannot be read: {wrong_with}.", path=path, wrong_with=wrong_with(error)),
            KEPT,
        ) from error
    version = raw.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FoxHandError(
            "project.damaged", tr("{path} does not say its version.", path=path), KEPT
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
            KEPT,
            tr("Update Fox Hand to open it."),
        )
    rate = raw.get("rate", 24.0)
    usable = isinstance(rate, int | float) and not isinstance(rate, bool) and 1 <= rate <= 240
    return Project(
        folder.absolute(),
        str(raw.get("name") or folder.name),
        float(rate) if usable else 24.0,
        _texts(raw.get("libraries")),
        _texts(raw.get("rigs")),
        _texts(raw.get("shots")),
    )


def _texts(value: object) -> tuple[str, ...]:
    return tuple(v for v in value if isinstance(v, str)) if isinstance(value, list) else ()


def write_project(project: Project) -> None:
    """Write a project.

    Raises:
        FoxHandError: ``file.write``.
    """
    lines = [
        f"version = {VERSION}",
        f"name = {toml_text(project.name)}",
        f"rate = {project.rate:g}",
        f"libraries = {toml_list(project.libraries)}",
        f"rigs = {toml_list(project.rigs)}",
        f"shots = {toml_list(project.shots)}",
    ]
    make_folder(project.folder)
    write_atomically(project.folder / FILE, ("\n".join(lines) + "\n").encode())


def project_of(path: Path) -> Project | None:
    """The project that a file lies in; None where it lies in none that can be read."""
    for folder in path.absolute().parents:
        if (folder / FILE).is_file():
            try:
                return read_project(folder)
            except FoxHandError:
                return None
    return None
