"""The list of what goes into a card: groups of controls, and their settings one by one."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from fox_hand.base.language import tr
from fox_hand.core.rig.rig import Rig
from fox_hand.session.capturing.away import setting_name
from fox_hand.session.capturing.capture_groups import CaptureGroup
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.deferred_update import once_after
from fox_hand.ui.widgets.flow import add_shown

FEW = 8  # rows that are added in one turn


class CaptureList(QWidget):
    """Rows of 24 px; what goes in first, then what moved, the rest folded away."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._draft: CaptureDraft | None = None
        self.ticks: list[tuple[Tick, CaptureGroup]] = []
        self.setting_ticks: list[tuple[Tick, int]] = []
        self._all = False
        self._left: list[tuple[CaptureGroup, bool]] = []  # that have no row yet; whether it goes in
        self._hidden = 0  # that get none until they are asked for
        self._later = once_after(self, 0, self._add_some)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)

    def end(self) -> None:
        """There is no draft any more."""
        self._draft = None

    @property
    def filling(self) -> bool:
        """Whether rows are to come yet."""
        return bool(self._left)

    def begin(self, draft: CaptureDraft) -> None:
        """Show a new draft; rows come a few at a time, so that the window answers between them."""
        self._draft, self._all = draft, False
        self.fill(at_once=False)

    def fill(self, *, at_once: bool = True) -> None:
        """Make the rows anew: which there are depends on what goes in."""
        draft = self._draft
        self._later.stop()
        if draft is None:
            return
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self.ticks, self.setting_ticks = [], []
        differs, rows = draft.differs(), draft.rows

        def rank(group: CaptureGroup) -> int:
            if not rows.isdisjoint(group.rows):
                return 0
            return 1 if differs[list(group.rows)].any() else 2

        ordered = sorted(draft.groups, key=rank)
        first = [g for g in ordered if self._all or rank(g) < 2 or g.own_turn]
        self._left = [(group, not rows.isdisjoint(group.rows)) for group in first]
        self._hidden = len(ordered) - len(first)
        self._add_some(None if at_once else FEW)

    def _add_some(self, most: int | None = FEW) -> None:
        draft, before = self._draft, self._column.count()
        if draft is None:
            return
        while self._left and (most is None or self._column.count() < before + most):
            self._add_group(draft, *self._left.pop(0))
        if self._left:
            self._later.start()
        elif self._hidden:
            self._add_more()
        self.refresh()

    def _add_more(self) -> None:
        """The button for those that are at rest."""
        more = Button(
            self._theme,
            tr("Show {count} more, all at rest", count=self._hidden),
            kind=Kind.FLAT,
            icon="chevron-down",
            height=24,
            icon_size=14,
        )
        more.clicked.connect(self._show_all)
        add_shown(self._column, more)

    def _show_all(self) -> None:
        known = [group for _, group in self.ticks]
        self._all = True
        fresh = [g for g in self._draft.groups if g not in known] if self._draft else []
        self._fill_again(fresh[0] if fresh else None)

    def _fill_again(self, group: CaptureGroup | None) -> None:
        """The keyboard, where it is in the list, goes on at a group: its row is a new one."""
        here = self.isAncestorOf(self.window().focusWidget())
        self.fill()
        for tick, one in self.ticks:
            if here and one is group:
                tick.show()  # at once, else it cannot take the keyboard
                tick.setFocus(Qt.FocusReason.OtherFocusReason)

    def _add_group(self, draft: CaptureDraft, group: CaptureGroup, goes_in: bool) -> None:
        rig = draft.actor.rig
        tick = Tick(self._theme, group.label)
        tick.clicked.connect(lambda _=False, g=group: self._toggle(g))
        self.ticks.append((tick, group))
        self._add_tick(tick)
        if goes_in:
            for row in (s for r in group.rows for s in rig.settings_of[r]):
                self._add_setting(rig, row)

    def _add_setting(self, rig: Rig, row: int) -> None:
        setting = rig.settings[row]
        if setting.helper:
            return
        tick = Tick(self._theme, setting_name(rig, row, ": "), indent=24)
        tick.clicked.connect(lambda on, r=row: self._toggle_setting(r, on))
        self.setting_ticks.append((tick, row))
        self._add_tick(tick)

    def _add_tick(self, tick: Tick) -> None:
        """As wide as the panel is; what has no room is cut, and read in its tooltip."""
        tick.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        add_shown(self._column, tick)

    def refresh(self) -> None:
        """Show what goes in now."""
        draft = self._draft
        if draft is None:
            return
        rows = draft.rows
        for tick, group in self.ticks:
            inside = [r for r in group.rows if r in rows]
            detail = (
                tr("{count} of {count_2}", count=len(inside), count_2=len(group.rows))
                if inside
                else tr("left out")
            )
            tick.set_state(bool(inside), 0 < len(inside) < len(group.rows), detail)
        for tick, row in self.setting_ticks:
            on = row in draft.settings
            tick.set_state(on, False, f"{draft.state.settings[row]:.2f}" if on else tr("left out"))

    def _toggle(self, group: CaptureGroup) -> None:
        draft = self._draft
        if draft is not None:
            whole = draft.rows.issuperset(group.rows)
            draft.set_rows(group.rows, not whole)
            self._fill_again(group)  # the settings of a group show while it is in

    def _toggle_setting(self, row: int, on: bool) -> None:
        if self._draft is not None:
            self._draft.set_setting(row, on)
