"""What the window should open with, from what somebody named."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr


@dataclass(frozen=True)
class Wish:
    """What the window should open with; all paths are absolute.

    Args:
        demo: the demo project.
        rig: a figure; None goes on where the last session ended.
        library: a library to open beside the last ones.
        shot: a shot.
        project: a project's folder.
        card: a card to show in its library.
        pack: a pack to look into.
    """

    demo: bool = False
    rig: Path | None = None
    library: Path | None = None
    shot: Path | None = None
    project: Path | None = None
    card: Path | None = None
    pack: Path | None = None


def wish_for(file: Path, library: Path | None) -> Wish:
    """What to open for a file or a folder.

    Raises:
        FoxHandError: ``open.missing``, ``open.unknown``, ``open.not_text``.
    """
    wish = _wish(file, library)
    for path in (wish.rig, wish.shot, wish.project, wish.library):
        if path is not None:
            _check_text(path)
    return wish


def _check_text(path: Path) -> None:
    """Shots and settings are JSON and keep where things lie, which must be text for that."""
    for part in (path, *path.parents):
        try:
            part.name.encode()
        except UnicodeEncodeError as error:
            raise FoxHandError(
                "open.not_text",
                tr(
                    "{shown} is not opened: shots and settings could not keep where it "
                    "lies, because the name {shown_2} is no text in UTF-8.",
                    shown=_shown(path.name),
                    shown_2=_shown(part.name),
                ),
                tr("Nothing was changed."),
                tr("Rename that file or folder, or copy it to another place, and open it again."),
            ) from error


def _shown(name: str) -> str:
    return os.fsencode(name).decode("utf-8", "replace")


def _wish(file: Path, library: Path | None) -> Wish:
    """By what it is: its ending, or what a folder holds."""
    from fox_hand.interchange.readers import RIG_KINDS
    from fox_hand.interchange.sidecar import kind_of
    from fox_hand.library.format.schema import SUFFIX as CARD
    from fox_hand.library.store.pack import SUFFIX as PACK
    from fox_hand.session.shots.project import FILE as PROJECT
    from fox_hand.session.shots.shot_file import SUFFIX as SHOT

    path = file.absolute()
    wish = Wish(library=None if library is None else library.absolute())
    if not path.exists():
        raise FoxHandError(
            "open.missing",
            tr("{file} is not there.", file=file),
            "",
            tr("Look at how it is written."),
        )
    if path.name in (PROJECT, LIBRARY):
        path = path.parent
    kind = path.suffix.lower()
    if path.is_dir():
        if (path / PROJECT).is_file():
            return replace(wish, project=path)
        if (path / LIBRARY).is_file():
            return replace(wish, library=path)
        raise FoxHandError(
            "open.unknown",
            tr(
                "{file} is neither a project nor a library: it holds no {project} and "
                "no {library}.",
                file=file,
                project=PROJECT,
                library=LIBRARY,
            ),
            "",
            "fox-hand library new makes a library of a folder.",
        )
    if kind == SHOT:
        return replace(wish, shot=path)
    if kind == CARD:
        return replace(wish, card=path, library=wish.library or library_over(path))
    if kind == PACK:
        return replace(wish, pack=path)
    if kind_of(path) in RIG_KINDS:
        return replace(wish, rig=path)
    if path.name.lower().endswith(".foxchart.toml"):
        return replace(wish, library=library_over(path))
    known = ", ".join((*RIG_KINDS, SHOT, CARD, PACK))
    raise FoxHandError(
        "open.unknown",
        tr("Fox Hand does not open {kind} files.", kind=kind or tr("such")),
        "",
        tr("It opens {known}.", known=known),
    )


LIBRARY = "library.toml"


def library_over(card: Path) -> Path | None:
    """The library a card lies in; None outside of one."""
    return next((folder for folder in card.parents if (folder / LIBRARY).is_file()), None)
