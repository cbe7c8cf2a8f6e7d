"""``fox-hand card``: what is in a card."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import Annotated

import typer

from fox_hand.base.language import tr
from fox_hand.cli.command_words import OwnGroup
from fox_hand.cli.commands.motion_commands import read_one
from fox_hand.cli.talk import Talk, command


def card_commands() -> typer.Typer:
    card = typer.Typer(cls=OwnGroup, help=tr("Look at cards."), no_args_is_help=True)
    command(card, facts=True)(show)
    command(card)(schema)
    return card


def show(
    talk: Talk,
    files: Annotated[list[Path], typer.Argument(help=tr("Cards; - reads one."))],
) -> None:
    """Print what a card says: facts, and what it holds of which control."""
    from fox_hand.api import Card

    told = []
    for path in files:
        facts = Card(talk.or_exit(partial(read_one, path))).facts()
        if talk.json:
            told.append({"file": str(path), **facts})
            continue
        for key, value in facts.items():
            if key != "controls" and value not in ("", None, []):
                talk.fact(f"{key:<12}{', '.join(value) if isinstance(value, list) else value}")
        for name, channels in facts["controls"].items():
            held = ", ".join(f"{k} {v:g}" for k, v in channels.items())
            talk.fact(f"  {name:<26}{held}")
    if talk.json:
        talk.data(told[0] if len(files) == 1 else told)


def schema(talk: Talk) -> None:
    """Print the JSON Schema of card.json."""
    from fox_hand.library.format.schema import json_schema

    talk.fact(json_schema().decode().rstrip("\n"))
