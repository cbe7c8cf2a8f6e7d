"""What the library of the command line says by itself, in the language of the user.

A part of it asks the process's own catalogue, which is made to be ours; its texts stand here so
that they are gathered. The line of usage, the help on help and what is said of mistakes are ours.
"""

from __future__ import annotations

import gettext
import os
from typing import Any

from typer.core import TyperCommand, TyperGroup

from fox_hand.base.language import CATALOGUES, DOMAIN, language, tr
from fox_hand.cli.usage_words import told_in_our_words

TEXTS = (
    tr("Options"),
    tr("Commands"),
    tr("Arguments"),
    tr("Missing command."),
    tr("No such command {name!r}."),
    tr("default: {default}"),
    tr("required"),
    tr("Aborted!"),
)


class OwnCommand(TyperCommand):
    """A command."""

    def format_usage(self, ctx: Any, formatter: Any) -> None:
        pieces = " ".join(self.collect_usage_pieces(ctx))
        formatter.write_usage(ctx.command_path, pieces, tr("Usage:") + " ")

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        with told_in_our_words():
            return super().parse_args(ctx, args)

    def invoke(self, ctx: Any) -> Any:
        with told_in_our_words():
            return super().invoke(ctx)

    def get_help_option(self, ctx: Any) -> Any:
        return _with_our_words(super().get_help_option(ctx))


class OwnGroup(TyperGroup):
    """A group of commands."""

    def format_usage(self, ctx: Any, formatter: Any) -> None:
        pieces = " ".join(self.collect_usage_pieces(ctx))
        formatter.write_usage(ctx.command_path, pieces, tr("Usage:") + " ")

    def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
        with told_in_our_words():
            return super().parse_args(ctx, args)

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        with told_in_our_words():
            return super().resolve_command(ctx, args)

    def get_help_option(self, ctx: Any) -> Any:
        return _with_our_words(super().get_help_option(ctx))


def _with_our_words(option: Any) -> Any:
    if option is not None:
        option.help = tr("Show this message and exit.")
    return option


def speak() -> None:
    """Make the process's catalogue ours, in the language of the user; what the desktop said of
    regions stays behind it."""
    gettext.bindtextdomain(DOMAIN, str(CATALOGUES))
    gettext.textdomain(DOMAIN)
    said = os.environ.get("LANGUAGE", "")
    os.environ["LANGUAGE"] = f"{language()}:{said}" if said else language()
