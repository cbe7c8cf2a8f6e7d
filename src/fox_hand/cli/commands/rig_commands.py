"""``fox-hand rig``: look at rigs and describe them."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.options import UnitOption, metres_of
from fox_hand.cli.talk import Talk, command


def rig_commands() -> typer.Typer:
    rig = typer.Typer(
        cls=OwnGroup, help=tr("Look at rigs and describe them."), no_args_is_help=True
    )
    command(rig, facts=True)(inspect)
    command(rig)(init)
    command(rig)(schema)
    return rig


def inspect(
    talk: Talk,
    files: Annotated[list[Path], typer.Argument(help=tr("Rig files."))],
    unit: UnitOption = None,
) -> None:
    """Print what was read and what was inferred: sides, regions, partners, settings."""
    from fox_hand.base.errors import FoxHandError
    from fox_hand.interchange.readers import read_rig
    from fox_hand.interchange.rig_report import facts, report

    told, failed = [], False
    for file in files:
        try:
            rig = read_rig(file, metres_of(unit))
        except FoxHandError as error:
            talk.problem(error.sentence())
            failed = True
            continue
        if talk.json:
            told.append(facts(rig))
        else:
            talk.fact(report(rig).rstrip("\n"))
    if talk.json:
        talk.data(told[0] if len(files) == 1 and told else told)
    if failed:
        raise typer.Exit(1)


def init(
    talk: Talk,
    file: Annotated[Path, typer.Argument(help=tr("A rig file."))],
    over: Annotated[
        bool, typer.Option("--over", help=tr("Write over a sidecar that is there."))
    ] = False,
    unit: UnitOption = None,
) -> None:
    """Write a sidecar to start from, with everything that was inferred."""
    from fox_hand.interchange.readers import read_rig
    from fox_hand.interchange.rig_report import starting_sidecar
    from fox_hand.interchange.sidecar import sidecar_path, write_sidecar
    from fox_hand.library.files.atomic import write_atomically

    path = sidecar_path(file)
    if path.exists() and not over:
        talk.problem(
            tr("{name} is there already and was left as it is; --over replaces it.", name=path.name)
        )
        raise typer.Exit(1)
    size = metres_of(unit)
    sidecar = starting_sidecar(talk.or_exit(lambda: read_rig(file, size)))
    sidecar.metres_per_unit = size
    data = write_sidecar(sidecar)
    talk.or_exit(lambda: write_atomically(path, data))
    talk.fact(tr("Wrote {path}", path=path))


def schema(talk: Talk) -> None:
    """Print the JSON Schema of a sidecar."""
    from fox_hand.interchange.sidecar import json_schema

    talk.fact(json_schema().decode().rstrip("\n"))
