"""``fox-hand puppet``: flat puppets out of drawings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from fox_hand.base.language import tr, tr_n
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.talk import Talk, command

if TYPE_CHECKING:
    from fox_hand.core.puppet.puppet import Puppet

Drawings = Annotated[
    Path, typer.Argument(help=tr("A folder of PNG, WebP or SVG drawings, or an OpenRaster file."))
]
Out = Annotated[Path, typer.Option("--out", "-o", help=tr("The .glb file to write."))]
Name = Annotated[str, typer.Option("--name", help=tr("Of the character; else the drawings' own."))]
Height = Annotated[
    float | None,
    typer.Option("--height", min=0.01, max=100.0, help=tr("Of the canvas, in metres; else 1.")),
]


def puppet_commands() -> typer.Typer:
    """All of them."""
    puppet = typer.Typer(
        cls=OwnGroup, help=tr("Flat puppets out of drawings."), no_args_is_help=True
    )
    command(puppet, facts=True)(make)
    command(puppet, facts=True)(draft)
    command(puppet, facts=True)(add)
    command(puppet)(schema)
    return puppet


def schema(talk: Talk) -> None:
    """Print the JSON Schema of a draft."""
    from fox_hand.interchange.puppets.puppet_draft import draft_schema

    talk.fact(draft_schema().decode().rstrip())


def draft(talk: Talk, drawings: Drawings, name: Name = "", height: Height = None) -> None:
    """Write down what is guessed beside the drawings, to be corrected by hand. Making the puppet
    follows it, also after something was drawn anew."""
    from fox_hand.session.puppets.making import height_of, puppet_of, write_draft

    with talk.progress() as progress:
        puppet = talk.or_exit(lambda: puppet_of(drawings, name, progress))
        high = talk.or_exit(lambda: height_of(drawings, height))
        path = talk.or_exit(lambda: write_draft(puppet, drawings, high))
    _tell(talk, puppet, [path])


def make(talk: Talk, drawings: Drawings, out: Out, name: Name = "", height: Height = None) -> None:
    """Make a puppet as far as names and places say, and list what was guessed."""
    from fox_hand.session.puppets.making import height_of, puppet_of, write_puppet

    with talk.progress() as progress:
        puppet = talk.or_exit(lambda: puppet_of(drawings, name, progress))
        high = talk.or_exit(lambda: height_of(drawings, height))
        made = talk.or_exit(lambda: write_puppet(puppet, out, drawings, high, progress))
    puppet = replace(puppet, notes=(*puppet.notes, *made.notes))
    _tell(talk, puppet, [made.glb, made.sidecar])


def add(
    talk: Talk,
    card: Annotated[Path, typer.Argument(help=tr("The card of a drawing, a .foxcard file."))],
    puppet: Annotated[Path, typer.Argument(help=tr("The puppet, a .glb file with its sidecar."))],
    part: Annotated[str, typer.Option("--part", help=tr("Which gets it, by its control's name."))],
) -> None:
    """Give a part of a puppet the drawing of a card as one more of its own. The puppet's two files
    are changed; a drawing that the part has already changes nothing."""
    from fox_hand.session.puppets.brought_drawings import add_to_files

    added = talk.or_exit(lambda: add_to_files(card, puppet, part))
    if talk.json:
        talk.data({"puppet": str(puppet), "part": part, "drawing": added.name, "new": added.new})
    elif added.new:
        talk.note(tr("{puppet}: {part} has {name} now.", puppet=puppet, part=part, name=added.name))
    else:
        talk.note(
            tr(
                "{puppet}: {part} has {name} already. Nothing was changed.",
                puppet=puppet,
                part=part,
                name=added.name,
            )
        )


def _tell(talk: Talk, puppet: Puppet, files: Sequence[Path]) -> None:
    if talk.json:
        talk.data(_facts(puppet, [str(file) for file in files]))
        return
    for note in puppet.notes:
        talk.note(note)
    for guess in puppet.guesses:
        talk.fact(f"guessed\t{_where(guess.view)}{guess.words}\t{guess.why}")
    talk.note(f"{files[0]}: {_counted(puppet)}")


def _where(view: str) -> str:
    return f"{view}: " if view else ""


def _counted(puppet: Puppet) -> str:
    drawings = sum(len(part.drawings) for part in puppet.parts)
    views = tr(" in {count} views", count=len(puppet.views)) if len(puppet.views) > 1 else ""
    return tr(
        "{drawings} in {parts}{views}",
        drawings=tr_n("{number} drawing", "{number} drawings", drawings),
        parts=tr_n("{number} part", "{number} parts", len(puppet.parts)),
        views=views,
    )


def _facts(puppet: Puppet, files: list[str]) -> dict[str, Any]:
    return {
        "name": puppet.name,
        "files": files,
        "views": list(puppet.views),
        "parts": [
            {
                "name": part.name,
                "view": part.view,
                "drawings": [drawing.name for drawing in part.drawings],
                "hangs_on": part.above,
                "pivot": list(part.pivot),
                "side": part.side.value,
                "region": part.region.value,
                "partner": part.partner,
            }
            for part in puppet.parts
        ],
        "guesses": [
            {"part": g.part, "view": g.view, "kind": g.kind.value, "words": g.words, "why": g.why}
            for g in puppet.guesses
        ],
        "notes": list(puppet.notes),
    }
