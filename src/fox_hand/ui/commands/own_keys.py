"""Keys that a person has chosen in place of ours."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from PySide6.QtGui import QKeySequence

from fox_hand.ui.commands.actions import Command, Where

OwnKeys = Mapping[str, Sequence[str]]  # keys by the name of a command


def overlap(one: Where, other: Where) -> bool:
    """Whether a key of one place can mean a command of the other."""
    return one is other or Where.ANYWHERE in (one, other) or Where.SPARE in (one, other)


def as_written(key: str) -> str:
    """A key as Qt writes it; empty for what is none."""
    return QKeySequence(key).toString()


def has_key(commands: Iterable[Command], key: str, command: Command) -> Command | None:
    """Another command that has a key where this one would count, too."""
    for other in commands:
        same = key in map(as_written, other.keys)
        if same and other.name != command.name and overlap(other.where, command.where):
            return other
    return None


def with_own_keys(commands: Sequence[Command], own: OwnKeys) -> list[Command]:
    """Commands with the keys that were chosen. What clashes, as a file written by hand may, is
    left to the one that was chosen, else to the first; what is no key is passed over."""
    chosen = [c for c in commands if c.name in own]
    rest = [c for c in commands if c.name not in own]
    taken: list[Command] = []
    for command in chosen:
        keys = [as_written(key) for key in own[command.name]]
        taken.append(replace(command, keys=_free(keys, command, taken)))
    done = {command.name: command for command in taken}
    for command in rest:
        done[command.name] = replace(command, keys=_free(command.keys, command, taken))
    return [done[command.name] for command in commands]


def _free(keys: Iterable[str], command: Command, taken: Sequence[Command]) -> tuple[str, ...]:
    wanted = [key for key in dict.fromkeys(keys) if key]
    return tuple(k for k in wanted if has_key(taken, as_written(k), command) is None)
