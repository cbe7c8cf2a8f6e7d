"""What a command may write over: never what it reads."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr


def same_file(one: Path, other: Path) -> bool:
    """Whether two paths lead to one file, through links as well."""
    try:
        return one.samefile(other)
    except OSError:
        return False  # one of them is not there


def keep_inputs(out: Path, inputs: Iterable[Path]) -> None:
    """Refuse to write over something that is read.

    Args:
        out: what is to be written.
        inputs: what is read for it.

    Raises:
        FoxHandError: ``output.is_input``.
    """
    if not out.exists():
        return  # so it is none of them
    for path in inputs:
        if same_file(out, path):
            raise FoxHandError(
                "output.is_input",
                tr(
                    "{name} is read for this ({path}), so it is not written over.",
                    name=out.name,
                    path=path,
                ),
                tr("Nothing was written."),
                tr("Choose another name for what is to be written."),
            )
