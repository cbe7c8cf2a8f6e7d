"""How a command ends when something is wrong."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

import typer

from fox_hand.base.errors import FoxHandError

Result = TypeVar("Result")
PARTLY = 3  # exit code: written, but not all of it landed or could be held


def or_exit(work: Callable[[], Result]) -> Result:
    """The result, or the sentence on standard error and exit code 1."""
    try:
        return work()
    except FoxHandError as error:
        typer.echo(error.sentence(), err=True)
        raise typer.Exit(1) from error


def end_with(notes: Sequence[str]) -> None:
    """Say what is not as one might expect, and end with its code."""
    for note in notes:
        typer.echo(note, err=True)
    if notes:
        raise typer.Exit(PARTLY)
