"""How commands speak: facts on standard output, everything else on standard error."""

from __future__ import annotations

import inspect
import json
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from functools import wraps
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr
from fox_hand.base.words import printable
from fox_hand.cli.command_words import OwnCommand

if TYPE_CHECKING:
    from fox_hand.base.work import Progress

Result = TypeVar("Result")
PARTLY = 3  # exit code: done, but not all of it landed or could be held
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help=tr("Say only what went wrong."))]
Verbose = Annotated[bool, typer.Option("--verbose", "-v", help=tr("Say more, for whoever helps."))]
Json = Annotated[bool, typer.Option("--json", help=tr("Print facts as JSON."))]


@dataclass(frozen=True)
class Talk:
    """What one command may say.

    Args:
        quiet: only problems.
        json: facts as one JSON document instead of lines.
    """

    quiet: bool = False
    json: bool = False

    def fact(self, text: str) -> None:
        """A line of what was asked for."""
        typer.echo(printable(text))

    def data(self, value: object) -> None:
        """The whole answer as JSON."""
        typer.echo(json.dumps(value, indent=1, ensure_ascii=False, default=str))

    def note(self, text: str) -> None:
        """Something beside the answer."""
        if not self.quiet:
            typer.echo(printable(text), err=True)

    def problem(self, text: str) -> None:
        """Something that went wrong."""
        typer.echo(printable(text), err=True)

    def or_exit(self, work: Callable[[], Result]) -> Result:
        """The result, or the sentence on standard error and exit code 1."""
        try:
            return work()
        except FoxHandError as error:
            self.problem(error.sentence())
            raise typer.Exit(1) from error

    def end_with(self, notes: Sequence[str]) -> None:
        """Say what is not as one might expect, and end with its code."""
        for note in notes:
            self.problem(note)
        if notes:
            raise typer.Exit(PARTLY)

    @contextmanager
    def progress(self) -> Iterator[Progress]:
        """Says how far it is: one line that is written over on a terminal and ended in any case,
        a line for each tenth elsewhere."""
        from fox_hand.base.work import Progress

        said, alive = [-1], sys.stderr.isatty() and not self.quiet

        def report(fraction: float, text: str) -> None:
            step = int(fraction * (100 if alive else 10))
            if self.quiet or step == said[0]:
                return
            said[0] = step
            words = printable(f"{fraction * 100:3.0f} %  {text}")
            typer.echo(f"\r{words[:78]:<78}" if alive else words, err=True, nl=not alive)

        try:
            yield Progress(report)
        finally:
            if alive and said[0] >= 0:
                typer.echo(f"\r{'100 %':<78}", err=True)


def command(
    app: typer.Typer, name: str | None = None, *, facts: bool = False
) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Register a command whose first parameter is its :class:`Talk`; it gets ``--quiet`` and
    ``--verbose``, and with ``facts`` also ``--json``."""

    def register(function: Callable[..., None]) -> Callable[..., None]:
        signature = inspect.signature(function, eval_str=True)
        own = list(signature.parameters.values())[1:]
        keyword = inspect.Parameter.KEYWORD_ONLY
        more = [("quiet", Quiet), ("verbose", Verbose), *([("as_json", Json)] if facts else [])]
        added = [inspect.Parameter(n, keyword, default=False, annotation=a) for n, a in more]

        @wraps(function)
        def run(*args: Any, quiet: bool, verbose: bool, as_json: bool = False, **kw: Any) -> None:
            if verbose:
                from fox_hand.base.system.log import say_more

                say_more()
            function(Talk(quiet, as_json), *args, **kw)

        run.__signature__ = signature.replace(  # type: ignore[attr-defined]
            parameters=[*own, *added]
        )
        run.__annotations__ = {p.name: p.annotation for p in (*own, *added)}
        del run.__wrapped__  # whose parameters are others
        app.command(name, cls=OwnCommand, help=tr(inspect.getdoc(function) or ""))(run)
        return function

    return register
