"""What the page of keys shows of every command."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from fox_hand.base.key_words import key_words
from fox_hand.base.language import tr
from fox_hand.ui.commands.actions import Command, Where

PLACES = {
    Where.ANYWHERE: tr("Everywhere"),
    Where.SPARE: tr("Outside fields"),
    Where.STAGE: tr("Stage"),
}


class KeyFilter(StrEnum):
    """Which commands are shown."""

    ALL = "all"
    CHANGED = "changed"
    NONE = "none"


@dataclass(frozen=True)
class KeyRow:
    """A heading, or a command with its keys.

    Args:
        title: of a heading; empty for a command.
        command: with the keys it has now; None for a heading.
        shipped: the keys it comes with.
        count: of a heading, how many commands are below it.
    """

    title: str = ""
    command: Command | None = None
    shipped: tuple[str, ...] = ()
    count: int = 0

    @property
    def changed(self) -> bool:
        """Whether a person has chosen other keys."""
        return self.command is not None and self.command.keys != self.shipped

    @property
    def said(self) -> str:
        """For a screen reader."""
        if self.command is None:
            return f"{self.title}, {self.count}"
        keys = tr(" or ").join(map(key_words, self.command.keys)) or tr("no key")
        changed = tr(", back to {back_to}", back_to=back_to(self.shipped)) if self.changed else ""
        return f"{words_of(self.command)}: {keys}, {PLACES[self.command.where]}{changed}"


def words_of(command: Command) -> str:
    """What a command is called, without the sign of a question."""
    return command.words.removesuffix(" …")


def back_to(shipped: Sequence[str]) -> str:
    """The keys it comes with."""
    return " or ".join(shipped) or tr("no key")


def rows_of(
    now: Sequence[Command],
    shipped: Sequence[Command],
    text: str = "",
    key: str = "",
    wanted: KeyFilter = KeyFilter.ALL,
) -> list[KeyRow]:
    """Commands below the headings of their groups.

    Args:
        now: with the keys they have.
        shipped: the same with the keys they come with, in the same order.
        text: what their words hold.
        key: a key they have; empty for any.
        wanted: which of them.
    """
    groups: dict[str, list[KeyRow]] = {}
    for command, before in zip(now, shipped, strict=True):
        row = KeyRow(command=command, shipped=before.keys)
        held = text.lower() in f"{command.words} {command.more}".lower()
        fits = {
            KeyFilter.ALL: True,
            KeyFilter.CHANGED: row.changed,
            KeyFilter.NONE: not command.keys,
        }[wanted]
        if held and fits and (not key or key in command.keys):
            groups.setdefault(command.group or tr("More"), []).append(row)
    found: list[KeyRow] = []
    for title, rows in groups.items():
        found.append(KeyRow(title, count=len(rows)))
        found += rows
    return found
