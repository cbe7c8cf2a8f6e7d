"""The command line: what to do, as typed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Annotated, TypeVar

import typer

from fox_hand import __version__
from fox_hand.base.errors import FoxHandError

Result = TypeVar("Result")


@dataclass(frozen=True)
class Wish:
    """What the window should open with.

    Args:
        demo: the demo project.
        rig: a figure; None goes on where the last session ended.
        library: a library to open instead of the last one.
    """

    demo: bool = False
    rig: Path | None = None
    library: Path | None = None


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

    @app.command()
    def demo() -> None:
        """Open the demo: the crew of the night ferry."""
        raise typer.Exit(show(Wish(demo=True)))

    @app.command(name="open")
    def open_file(
        file: Annotated[Path, typer.Argument(help="A character: glTF, VRM, USD or BVH.")],
        library: Annotated[
            Path | None, typer.Option("--library", help="The library to open with it.")
        ] = None,
    ) -> None:
        """Open a figure of your own."""
        raise typer.Exit(show(Wish(rig=file, library=library)))

    @app.command(name="card-schema")
    def card_schema() -> None:
        """Print the JSON Schema of card.json."""
        from fox_hand.library.schema import json_schema

        typer.echo(json_schema().decode(), nl=False)

    app.add_typer(_rig_commands(), name="rig")
    return app


class Unit(StrEnum):
    """What a model file was drawn in."""

    METRES = "metres"
    CENTIMETRES = "centimetres"
    INCHES = "inches"
    MILLIMETRES = "millimetres"


UnitOption = Annotated[
    Unit | None, typer.Option("--unit", help="The file's unit, where it does not say it.")
]


def _metres(unit: Unit | None) -> float | None:
    from fox_hand.interchange.units import UNITS

    return None if unit is None else UNITS[unit.value]


def _rig_commands() -> typer.Typer:
    rig = typer.Typer(help="Look at rigs and describe them.", no_args_is_help=True)

    @rig.command()
    def inspect(
        file: Annotated[Path, typer.Argument(help="A rig file.")], unit: UnitOption = None
    ) -> None:
        """Print what was read and what was inferred: sides, regions, partners, settings."""
        from fox_hand.interchange.readers import read_rig
        from fox_hand.interchange.rig_report import report

        typer.echo(report(_or_exit(lambda: read_rig(file, _metres(unit)))), nl=False)

    @rig.command()
    def init(
        file: Annotated[Path, typer.Argument(help="A rig file.")],
        over: Annotated[
            bool, typer.Option("--over", help="Write over a sidecar that is there.")
        ] = False,
        unit: UnitOption = None,
    ) -> None:
        """Write a sidecar to start from, with everything that was inferred."""
        from fox_hand.interchange.readers import read_rig
        from fox_hand.interchange.rig_report import starting_sidecar
        from fox_hand.interchange.sidecar import sidecar_path, write_sidecar
        from fox_hand.library.atomic import write_atomically

        path = sidecar_path(file)
        if path.exists() and not over:
            typer.echo(f"{path.name} is there already and was left as it is; --over replaces it.")
            raise typer.Exit(1)
        size = _metres(unit)
        sidecar = starting_sidecar(_or_exit(lambda: read_rig(file, size)))
        sidecar.metres_per_unit = size
        data = write_sidecar(sidecar)
        _or_exit(lambda: write_atomically(path, data))
        typer.echo(f"Wrote {path}")

    @rig.command()
    def schema() -> None:
        """Print the JSON Schema of a sidecar."""
        from fox_hand.interchange.sidecar import json_schema

        typer.echo(json_schema().decode(), nl=False)

    return rig


def _or_exit(work: Callable[[], Result]) -> Result:
    """The result, or the sentence on standard error and exit code 1."""
    try:
        return work()
    except FoxHandError as error:
        typer.echo(error.sentence(), err=True)
        raise typer.Exit(1) from error
