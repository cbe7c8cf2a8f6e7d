"""Which channels and settings go into a card, one by one."""

from __future__ import annotations

from collections.abc import Iterable

from fox_hand.core.animation.curves import KIND_OF, ChannelId, ChannelKind
from fox_hand.core.model.controls import Channel
from fox_hand.core.pose.pose import ChannelFilter
from fox_hand.core.rig.rig import Rig

CHANNEL_OF = {kind: channel for channel, kind in KIND_OF.items()}


class ChosenChannels:
    """Controls times kinds of channel, and what a person decided apart from that.

    Args:
        rig: the figure's.
        rows: controls that were chosen as a whole.
    """

    def __init__(self, rig: Rig, rows: Iterable[int]) -> None:
        self._rig = rig
        self._chosen = set(rows)
        self.kinds: set[Channel] = {Channel.TURN}
        self.settings: set[int] = {s for row in self._chosen for s in rig.settings_of[row]}
        self._apart: dict[tuple[int, Channel], bool] = {}

    def copy(self) -> ChosenChannels:
        """The same choice, to be changed by itself."""
        made = ChosenChannels(self._rig, self._chosen)
        made.kinds, made.settings = set(self.kinds), set(self.settings)
        made._apart = dict(self._apart)
        return made

    @property
    def filter(self) -> ChannelFilter:
        """What goes in."""
        controls = self._rig.controls
        kinds = frozenset(self.kinds)
        channels = {row: set(controls[row].channels & kinds) for row in sorted(self._chosen)}
        for (row, channel), included in self._apart.items():
            if included and channel in controls[row].channels:
                channels.setdefault(row, set()).add(channel)
            elif row in channels:
                channels[row].discard(channel)
        found = {row: frozenset(held) for row, held in channels.items() if held}
        return ChannelFilter(found, frozenset(self.settings))

    @property
    def candidates(self) -> set[int]:
        """Controls that were chosen, whether or not any kind of theirs goes in."""
        return self._chosen | self.rows

    @property
    def rows(self) -> set[int]:
        """Controls of which anything goes in."""
        holders = {self._rig.settings[s].control for s in self.settings}
        return set(self.filter.rows) | holders

    @property
    def channel_ids(self) -> list[ChannelId]:
        """Channels, then settings."""
        rig, chosen = self._rig, self.filter
        found = [
            ChannelId(KIND_OF[c], rig.controls[row].name)
            for row, kinds in sorted(chosen.channels.items())
            for c in Channel
            if c in kinds
        ]
        return found + [
            ChannelId(ChannelKind.SETTING, rig.settings[s].name) for s in sorted(chosen.settings)
        ]

    def set_rows(self, rows: Iterable[int], included: bool) -> None:
        """Take whole controls in, with the settings they hold, or leave them out."""
        rows, rig = set(rows), self._rig
        self._apart = {key: on for key, on in self._apart.items() if key[0] not in rows}
        held = {s for row in rows for s in rig.settings_of[row]}
        if not included:
            self._chosen -= rows
            self.settings -= held
            return
        self._chosen |= rows
        self.settings |= held
        if not any(rig.controls[row].channels & self.kinds for row in rows) and not held:
            self.kinds |= {c for row in rows for c in rig.controls[row].channels} & {Channel.TURN}

    def set_kind(self, kind: Channel, included: bool) -> None:
        """Take one kind of channel of all chosen controls in, or leave it out."""
        self._apart = {key: on for key, on in self._apart.items() if key[1] is not kind}
        if included:
            self.kinds.add(kind)
        else:
            self.kinds.discard(kind)

    def set_setting(self, row: int, included: bool) -> None:
        """Take one setting in, or leave it out."""
        if included:
            self.settings.add(row)
        else:
            self.settings.discard(row)

    def set_channels(self, channel_ids: Iterable[ChannelId], included: bool) -> None:
        """Take single channels and settings in, or leave them out; others stay as they are."""
        rig = self._rig
        for channel_id in channel_ids:
            if channel_id.is_setting:
                self.set_setting(rig.setting_row[channel_id.name], included)
            else:
                row = rig.control_row[channel_id.name]
                self._apart[row, CHANNEL_OF[channel_id.kind]] = included

    def only(self, channel_ids: Iterable[ChannelId]) -> None:
        """Exactly these."""
        self._chosen, self._apart, self.settings = set(), {}, set()
        wanted = list(channel_ids)
        self.set_channels(wanted, True)
        self._chosen = {row for row, _ in self._apart}
        self.kinds = {CHANNEL_OF[x.kind] for x in wanted if not x.is_setting}
        controls = self._rig.controls
        for row in self._chosen:
            for channel in controls[row].channels & self.kinds:
                self._apart.setdefault((row, channel), False)
