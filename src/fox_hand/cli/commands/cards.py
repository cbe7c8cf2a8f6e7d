"""``fox-hand card``: what is in a card."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import Annotated, Any

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
    told = []
    for path in files:
        card = talk.or_exit(partial(read_one, path))
        facts = _facts(card)
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


def _facts(card: Any) -> dict[str, Any]:
    from fox_hand.api.values import held_values

    return {
        "name": card.name,
        "kind": card.kind,
        "id": card.identity,
        "revision": card.revision,
        "character": card.character,
        "fingerprint": card.fingerprint,
        "author": card.author,
        "licence": card.licence,
        "tags": list(card.tags),
        "note": card.note,
        "approved_by": card.approved_by,
        "source": card.source,
        "frames": None if card.clip is None else round(card.clip.length) + 1,
        "controls": held_values(card.pose),
    }


def schema(talk: Talk) -> None:
    """Print the JSON Schema of card.json."""
    from fox_hand.library.format.schema import json_schema

    talk.fact(json_schema().decode().rstrip("\n"))
