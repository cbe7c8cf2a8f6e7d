"""What is said of words that a command does not understand, in the language of the user.

The library of the command line writes these sentences itself, in English, and keeps the kinds of
mistakes in a module of its own; a newer one whose kinds differ is still told in its words.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from typer._click import exceptions as mistakes

from fox_hand.base.language import tr

EXTRA = re.compile(r"unexpected extra argument\S* \((?P<words>.*)\)$", re.DOTALL)


class MistypedError(mistakes.UsageError):
    """The same mistake, told in our words; the library ends the command with its exit code."""

    def show(self, file: Any = None) -> None:
        out = file or sys.stderr
        if self.ctx is not None:
            names = {"command": self.ctx.command_path, "option": self.ctx.help_option_names[0]}
            out.write(f"{self.ctx.get_usage()}\n")
            out.write(tr("'{command} {option}' says how it is used.", **names) + "\n\n")
        out.write(tr("Error: {message}", message=self.message) + "\n")


@contextmanager
def told_in_our_words() -> Iterator[None]:
    """Raises mistakes that the library finds inside as :class:`MistypedError`."""
    try:
        yield
    except (MistypedError, mistakes.NoArgsIsHelpError):
        raise
    except mistakes.UsageError as mistake:
        raise MistypedError(words_of(mistake), mistake.ctx) from mistake


def words_of(mistake: mistakes.UsageError) -> str:
    """One sentence, or two."""
    if isinstance(mistake, mistakes.NoSuchOption):
        said = tr("There is no option {name}.", name=mistake.option_name)
        near = ", ".join(sorted(mistake.possibilities or ()))
        return f"{said} {tr('Near to it: {names}.', names=near)}" if near else said
    if isinstance(mistake, mistakes.MissingParameter):
        return tr("{name} is missing.", name=_name(mistake))
    if isinstance(mistake, mistakes.BadParameter):
        return _bad(mistake)
    if isinstance(mistake, mistakes.BadOptionUsage):
        name = mistake.option_name
        if "does not take" in mistake.message:
            return tr("{name} takes no value.", name=name)
        return tr("{name} wants a value after it.", name=name)
    found = EXTRA.search(mistake.message)
    if found is not None:
        return tr("Nobody asked for {words}.", words=found["words"])
    return mistake.format_message()  # what we said ourselves, or what is new to us


def _bad(mistake: mistakes.BadParameter) -> str:
    kind, name = getattr(mistake.param, "type_descriptor", None), _name(mistake)
    choices, wanted = getattr(kind, "choices", None), getattr(kind, "annotation", None)
    if choices:
        known = ", ".join(str(getattr(one, "value", one)) for one in choices)
        return tr("{name} is one of {known}.", name=name, known=known)
    if "unable to parse" in mistake.message and wanted in (int, float):
        if wanted is int:
            return tr("{name} wants a whole number.", name=name)
        return tr("{name} wants a number.", name=name)
    return tr("{name}: {message}", name=name, message=mistake.message) if name else mistake.message


def _name(mistake: mistakes.BadParameter) -> str:
    """How the person writes it: an option's names, an argument as the help shows it."""
    hint = mistake.param_hint
    if hint is None and mistake.param is not None:
        hint = mistake.param.get_error_hint()
    names = [hint] if isinstance(hint, str) else list(hint or ())
    return " / ".join(names).replace("'", "")
