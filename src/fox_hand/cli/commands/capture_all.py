"""``fox-hand capture-all``: cards of everything a file holds."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.cli.reshooter import Reshooter
    from fox_hand.library.store.store import Library
    from fox_hand.session.capturing.file_cards import Make
    from fox_hand.session.figures.figure import Figure


def add_capture_all(app: typer.Typer) -> None:
    command(app, facts=True)(capture_all)


def capture_all(
    talk: Talk,
    file: Annotated[Path, typer.Argument(help=tr("A file with animations, or a VRM."))],
    *,
    library: Annotated[Path, typer.Option("--library", help=tr("The library they go into."))],
    sheet: Annotated[
        str, typer.Option("--sheet", help=tr("In which sheet; else one called as the file."))
    ] = "",
    rig: Annotated[
        Path | None,
        typer.Option("--rig", help=tr("The character, where it is not the file's own.")),
    ] = None,
    expressions: Annotated[
        bool,
        typer.Option("--expressions", help=tr("A VRM's expressions instead of its animations.")),
    ] = False,
) -> None:
    """Take a card of every animation of a file (poses of those of one frame, clips of others), or
    of every expression."""
    from fox_hand.cli.reshooter import Reshooter, renderers
    from fox_hand.interchange.readers import read_rig
    from fox_hand.library.store.store import Library
    from fox_hand.session.figures.figure import Figure

    where = talk.or_exit(lambda: Library(library))
    owner = talk.or_exit(lambda: read_rig(rig or file))
    actor = Figure(owner, rig or file)
    made = talk.or_exit(lambda: _makers(file, actor, expressions=expressions))
    below = sheet or f"{owner.name}/{'Expressions' if expressions else file.stem}"
    told, paths = list[str](), list[str]()
    with talk.progress() as progress, renderers(1) as drawing:
        for number, (name, make) in enumerate(made):
            progress.step(number / len(made), name)
            path = _taken(Reshooter(owner, drawing), where, below, make, told)
            paths += [str(path)] if path is not None else []
    if talk.json:
        talk.data({"cards": paths})
    else:
        for one in paths:
            talk.fact(one)
    if not paths:
        for sentence in told:
            talk.problem(sentence)
        raise typer.Exit(1)
    talk.end_with(told)


def _makers(file: Path, actor: Figure, *, expressions: bool) -> list[tuple[str, Make]]:
    from functools import partial

    from fox_hand.interchange.motions import animation_facts
    from fox_hand.session.capturing.file_cards import animation_card, expression_cards

    if expressions:
        return expression_cards(file, actor.rig)
    facts = enumerate(animation_facts(file), 1)
    return [(f.name, partial(animation_card, file, actor, str(n), f.name)) for n, f in facts]


def _taken(
    reshooter: Reshooter, library: Library, sheet: str, make: Make, told: list[str]
) -> Path | None:
    """One card; what is wrong with it is told, and the others go on."""
    from fox_hand.base.errors import FoxHandError

    try:
        card, (small, large, *motion) = reshooter.drawn(make())
        return library.add(card, small, sheet, large, *motion)
    except FoxHandError as error:
        told.append(error.sentence())
        return None
