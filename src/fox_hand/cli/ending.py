"""How a command ends when something is wrong."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

import typer

from fox_hand.base.errors import FoxHandError

Result = TypeVar("Result")


def or_exit(work: Callable[[], Result]) -> Result:
    """The result, or the sentence on standard error and exit code 1."""
    try:
        return work()
    except FoxHandError as error:
        typer.echo(error.sentence(), err=True)
        raise typer.Exit(1) from error
