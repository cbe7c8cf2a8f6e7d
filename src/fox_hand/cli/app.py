"""The command line: what to do, as typed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer

from fox_hand import __version__
from fox_hand.cli.demo import demo_commands
from fox_hand.cli.library import library_commands
from fox_hand.cli.motions import add_motion_commands
from fox_hand.cli.pictures import add_picture_commands
from fox_hand.cli.rigs import rig_commands


@dataclass(frozen=True)
class Wish:
    """What the window should open with.

    Args:
        demo: the demo project.
        rig: a figure; None goes on where the last session ended.
        library: a library to open instead of the last one.
        shot: a shot.
    """

    demo: bool = False
    rig: Path | None = None
    library: Path | None = None
    shot: Path | None = None


def version(wanted: bool) -> None:
    """Say which version this is, and end."""
    if wanted:
        typer.echo(f"Fox Hand {__version__}")
        raise typer.Exit


def make_app(show: Callable[[Wish], int]) -> typer.Typer:
    """The commands; ``show`` opens the window and returns the exit code."""
    app = typer.Typer(
        help="Fox Hand keeps the poses of rigged characters as cards and puts them back on.",
        add_completion=False,
        no_args_is_help=False,
    )

    @app.callback(invoke_without_command=True)
    def start(
        context: typer.Context,
        _version: Annotated[
            bool, typer.Option("--version", callback=version, is_eager=True, help="Say which.")
        ] = False,
    ) -> None:
        """Open the window where you left it."""
        if context.invoked_subcommand is None:
            raise typer.Exit(show(Wish()))

    @app.command(name="open")
    def open_file(
        file: Annotated[Path, typer.Argument(help="A character (glTF, VRM, USD, BVH) or a shot.")],
        library: Annotated[
            Path | None, typer.Option("--library", help="The library to open with it.")
        ] = None,
    ) -> None:
        """Open a figure or a shot of your own."""
        if file.suffix == ".foxshot":
            raise typer.Exit(show(Wish(shot=file, library=library)))
        raise typer.Exit(show(Wish(rig=file, library=library)))

    @app.command(name="card-schema")
    def card_schema() -> None:
        """Print the JSON Schema of card.json."""
        from fox_hand.library.schema import json_schema

        typer.echo(json_schema().decode(), nl=False)

    add_motion_commands(app)
    add_picture_commands(app)
    app.add_typer(rig_commands(), name="rig")
    app.add_typer(library_commands(), name="library")
    app.add_typer(demo_commands(lambda: show(Wish(demo=True))), name="demo")
    return app
