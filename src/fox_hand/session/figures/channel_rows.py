"""Rows of the channels panel: one channel of one control, or the same channel of many."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from fox_hand.base.language import tr
from fox_hand.core.model.controls import Channel, SettingKind
from fox_hand.core.model.state import State
from fox_hand.core.rig.locks_limits import Lock, out_of_plane
from fox_hand.core.rig.rig import Rig
from fox_hand.session.figures.channels import ChannelRef, channels_of, with_value

KINDS = (Channel.TURN, Channel.MOVE, Channel.SCALE)


@dataclass(frozen=True)
class ChannelRow:
    """Channels that are read and set together.

    Args:
        name: whose, such as ``Index 1`` or ``All 15``; empty where the heading says it.
        word: which, such as ``curl``.
        refs: the channels; they are of one kind.
    """

    name: str
    word: str
    refs: tuple[ChannelRef, ...]

    @property
    def first(self) -> ChannelRef:
        return self.refs[0]

    def kind(self, rig: Rig) -> SettingKind:
        """How it is edited."""
        first = self.first
        return SettingKind.FLOAT if first.kind is not None else rig.settings[first.axis].kind

    def value(self, rig: Rig, state: State) -> float | None:
        """The value as shown; None where the channels differ from each other."""
        first, *rest = (ref.value(rig, state) for ref in self.refs)
        return first if all(abs(v - first) < 0.5 * self.grain for v in rest) else None

    @property
    def decimals(self) -> int:
        return 1 if self.first.kind in (Channel.TURN, Channel.MOVE) else 2

    @property
    def grain(self) -> float:
        """The smallest difference that is shown."""
        return float(10.0**-self.decimals)

    def away(self, rig: Rig, state: State) -> bool:
        """Whether any of the channels shows another value than at rest."""
        return any(
            abs(ref.value(rig, state) - ref.rest_value(rig)) >= 0.5 * self.grain
            for ref in self.refs
        )

    def label(self, rig: Rig) -> str:
        """For the history: ``Head nod``."""
        parts = self.first.label(rig) if len(self.refs) == 1 else (self.name, self.word)
        return " ".join(part for part in parts if part)

    def locks(self, rig: Rig) -> frozenset[Lock]:
        """The locks that would hold all of it."""
        return frozenset(lock_of(rig, ref) for ref in self.refs)


def lock_of(rig: Rig, ref: ChannelRef) -> Lock:
    """The lock of one channel."""
    name = rig.controls[ref.row].name
    if ref.kind is None:
        return Lock(name, setting=rig.settings[ref.axis].name)
    return Lock(name, ref.kind, ref.axis)


def rows_of(rig: Rig, selected: Iterable[int]) -> list[ChannelRow]:
    """The rows for a selection: for many controls first what they have in common."""
    selected = list(selected)
    plain = out_of_plane(rig)
    refs = [
        ref
        for ref in channels_of(rig, selected, KINDS)
        if not _hidden(rig, ref) and lock_of(rig, ref) not in plain
    ]
    if len(selected) == 1:
        return [ChannelRow("", _alone(rig, ref), (ref,)) for ref in refs]
    groups: dict[tuple[object, ...], list[ChannelRef]] = {}
    for ref in refs:
        groups.setdefault(_sort(rig, ref), []).append(ref)
    together = [
        ChannelRow(tr("All {count}", count=len(group)), _word(rig, group[0]), tuple(group))
        for group in groups.values()
        if len(group) > 1
    ]
    return together + [ChannelRow(*ref.label(rig), (ref,)) for ref in refs]


def _hidden(rig: Rig, ref: ChannelRef) -> bool:
    return ref.kind is None and rig.settings[ref.axis].helper


def _word(rig: Rig, ref: ChannelRef) -> str:
    name, word = ref.label(rig)
    return word or name


def _alone(rig: Rig, ref: ChannelRef) -> str:
    word, own = _word(rig, ref), f"{rig.word(ref.row)} "
    if word.lower().startswith(own.lower()):
        word = word[len(own) :]  # its control is named above it
    return word[:1].upper() + word[1:]


def _sort(rig: Rig, ref: ChannelRef) -> tuple[object, ...]:
    """Channels with the same sort can be set together."""
    if ref.kind is None:
        setting = rig.settings[ref.axis]
        return setting.kind, setting.label, setting.minimum, setting.maximum, setting.options
    return ref.kind, _word(rig, ref)


def with_row(rig: Rig, state: State, row: ChannelRow, value: float, *, add: bool = False) -> State:
    """The state with all channels of a row set to a value as shown, or changed by it."""
    for ref in row.refs:
        base = ref.value(rig, state) if add else 0.0
        state = with_value(rig, state, ref, base + value)
    return state


def at_rest_row(rig: Rig, state: State, row: ChannelRow) -> State:
    """The state with all channels of a row back at rest."""
    for ref in row.refs:
        state = with_value(rig, state, ref, ref.rest_value(rig))
    return state
