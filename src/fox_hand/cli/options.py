"""Options that several commands have, and what they take."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Annotated

import typer


def _finite(value: float | None) -> float | None:
    if value is not None and not (math.isfinite(value) and 0 < value <= 1000):
        raise typer.BadParameter(f"{value} is no number of frames a second (above 0, at most 1000)")
    return value


Rate = Annotated[
    float | None, typer.Option("--rate", help="Frames a second to sample at.", callback=_finite)
]
Find = Annotated[
    str, typer.Option("--find", help="Only what a search finds: words and filters, as on screen.")
]
Folder = Annotated[Path, typer.Argument(help="The library's folder.")]
RigOption = Annotated[
    Path | None, typer.Option("--rig", help="A character, for fits: and for what has no rig.")
]
Who = Annotated[str, typer.Option("--who", help="The prefix, of a shot with several.")]
STDIO = Path("-")
