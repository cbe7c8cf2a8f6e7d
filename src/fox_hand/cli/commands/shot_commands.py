"""``fox-hand shot`` and ``project``: whether everything is there."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.talk import Talk, command


def shot_commands() -> typer.Typer:
    shot = typer.Typer(cls=OwnGroup, help=tr("Work with shots."), no_args_is_help=True)
    command(shot, "check", facts=True)(check_shots)
    return shot


def project_commands() -> typer.Typer:
    project = typer.Typer(cls=OwnGroup, help=tr("Work with projects."), no_args_is_help=True)
    command(project, "check", facts=True)(check_project)
    return project


def check_shots(
    talk: Talk, files: Annotated[list[Path], typer.Argument(help=tr("Shots."))]
) -> None:
    """Look whether a shot can be read and its characters are there. Ends with 1 if not."""
    _told(talk, {file: list(_shot_problems(file)) for file in files})


def check_project(
    talk: Talk, folder: Annotated[Path, typer.Argument(help=tr("The project's folder."))]
) -> None:
    """Look whether a project's libraries, characters and shots are there and whole."""
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.store.store import Library
    from fox_hand.session.shots.project import read_project

    project = talk.or_exit(lambda: read_project(folder))
    found: dict[Path, list[str]] = {}
    for library in project.libraries:
        path = project.path(library)
        found[path] = list(_refused(partial(Library, path)))
    for rig in project.rigs:
        path = project.path(rig)
        found[path] = list(_refused(partial(read_rig, path)))
    for shot in project.shot_paths():
        found[shot] = list(_shot_problems(shot))
    _told(talk, found)


def _refused(read: Callable[[], object]) -> Iterator[str]:
    from fox_hand.base.errors import FoxHandError

    try:
        read()
    except FoxHandError as error:
        yield error.sentence()


def _shot_problems(file: Path) -> Iterator[str]:
    from fox_hand.base.errors import FoxHandError
    from fox_hand.session.app.headless import open_shot_file

    try:
        shot = open_shot_file(file)
    except FoxHandError as error:
        yield error.sentence()
        return
    yield from shot.missing
    for actor in shot.actors:
        gone = sorted(actor.spare.names)
        if gone:
            yield tr(
                "{prefix}: {name} no longer has {names}.",
                prefix=actor.prefix,
                name=actor.path.name,
                names=", ".join(gone),
            )


def _told(talk: Talk, found: dict[Path, list[str]]) -> None:
    if talk.json:
        talk.data({str(path): problems for path, problems in found.items()})
    else:
        for path, problems in found.items():
            for problem in problems or [tr("fine")]:
                talk.fact(f"{path}\t{problem}")
    if any(found.values()):
        raise typer.Exit(1)
