"""The Pairs screen: which control mirrors to which, what was inferred, and a way to try it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from html import escape

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.core.model.controls import ControlKind, MirrorRule, Region, Side
from fox_hand.core.naming.mirror_partners import Doubt, FoundBy, doubts_of, pairs_of
from fox_hand.core.naming.part_words import region_word, side_word
from fox_hand.core.naming.roles import ALL_ROLES
from fox_hand.session.app.needs import Posing
from fox_hand.session.app.rig_corrections import PairsDraft
from fox_hand.session.figures.figure import Figure
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.screens.pairs.pairs_table import PairsTable
from fox_hand.ui.screens.pairs.pairs_trial import TrialPanel
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.fields.completing import clearable
from fox_hand.ui.widgets.key_map import KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.screen_parts import back_to_stage, undo_and_redo

LOOKS = ("+Z", "-Z", "+X", "-X")
FILTERS: tuple[tuple[str, FoundBy | None], ...] = (
    (tr("All"), None),
    (tr("Both"), FoundBy.BOTH),
    (tr("Name"), FoundBy.NAME),
    (tr("Place"), FoundBy.PLACE),
    (tr("By hand"), FoundBy.HAND),
    (tr("Middle"), FoundBy.MIDDLE),
    (tr("Alone"), FoundBy.ALONE),
)


class PairsScreen(QWidget):
    """Takes the place of the columns while it is open."""

    closed = Signal()
    told = Signal(str)
    failed = Signal(object)
    saved = Signal()

    def __init__(self, theme: Theme, workspace: Posing, pictures: Pictures, post: Post) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        self.draft: PairsDraft | None = None
        self._actor: Figure | None = None
        self._filter: FoundBy | None = None
        self.table = PairsTable(theme)
        self.trial = TrialPanel(theme, pictures, post)
        self.keys = KeyMap([LocalKey(("Space",), self.trial.try_out)])
        self.save_button = Button(
            theme, tr("Save for all shots"), tip=tr("Write into the rig's sidecar")
        )
        self.back_button = back_to_stage(theme)
        self.undo_button, self.redo_button = undo_and_redo(theme)
        self.find_button = Button(
            theme, tr("Find all again"), tip=tr("Infer anew; pairs made by hand are kept")
        )
        self._title, self._where = Words(""), Words("")
        self._title.setProperty("role", "screen")
        self._where.setProperty("quiet", True)
        self.search = QLineEdit()
        clearable(self.search)
        self.search.setPlaceholderText(tr("name"))
        self.search.setAccessibleName(tr("Find a control"))
        self.search.setFixedSize(132, 28)
        self._chips: dict[FoundBy | None, Button] = {}
        self._doubts = QVBoxLayout()
        self._build()
        self.table.chosen.connect(self._on_chosen)
        self.table.paired.connect(self._pair)
        self.table.row_menu_asked.connect(self._ask_row)
        self.trial.rules.rule_chosen.connect(self._set_rule)
        self.back_button.clicked.connect(self.closed)
        self.save_button.clicked.connect(self.save)
        self.undo_button.clicked.connect(lambda: self.draft and self.draft.undo())
        self.redo_button.clicked.connect(lambda: self.draft and self.draft.redo())
        self.find_button.clicked.connect(lambda: self.draft and self.draft.find_again())
        self.search.textChanged.connect(self._refresh_table)
        theme.changed.connect(self._worn)

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(12, 8, 12, 0)
        top.setSpacing(12)
        for widget in (self.back_button, self._title, self._where):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(self.undo_button)
        top.addWidget(self.redo_button)
        body = QHBoxLayout()
        body.setContentsMargins(12, 8, 12, 12)
        body.setSpacing(12)
        body.addWidget(self._list_panel(), 3)
        self.trial.setMinimumWidth(360)
        body.addWidget(self.trial, 2)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addLayout(body, 1)

    def _list_panel(self) -> QWidget:
        panel = QWidget()
        panel.setProperty("panel", True)
        panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(panel)
        column.setContentsMargins(0, 8, 0, 8)
        column.setSpacing(8)
        self._doubts.setContentsMargins(12, 0, 12, 0)
        self._doubts.setSpacing(4)
        column.addLayout(self._doubts)
        chips = QHBoxLayout()
        chips.setContentsMargins(12, 0, 12, 0)
        chips.setSpacing(4)
        for word, found in FILTERS:
            chip = Button(self._theme, word, kind=Kind.PILL, height=24)
            chip.clicked.connect(partial(self._choose_filter, found))
            self._chips[found] = chip
            chips.addWidget(chip)
        chips.addStretch(1)
        chips.addWidget(self.search)
        column.addLayout(chips)
        column.addWidget(self.table, 1)
        column.addWidget(self._detail_row())
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 0, 12, 0)
        foot.addWidget(self.find_button)
        self.looks = QComboBox()
        self.looks.setAccessibleName(tr("Looks along"))
        self.looks.setToolTip(
            tr("Which way the figure looks: mirroring, sides and motion of other figures go by it")
        )
        self.looks.addItems(LOOKS)
        self.looks.activated.connect(self._look_along)
        along = Words(tr("Looks along"))
        along.setProperty("quiet", True)
        along.setBuddy(self.looks)
        foot.addSpacing(8)
        foot.addWidget(along)
        foot.addWidget(self.looks)
        foot.addSpacing(8)
        hint = Words(tr("Drop one name on another to pair them"))
        hint.setProperty("quiet", True)
        foot.addWidget(hint, 1)
        foot.addWidget(self.save_button)
        column.addLayout(foot)
        return panel

    def _detail_row(self) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 4, 12, 4)
        line.setSpacing(8)
        self.partner, self.side = QComboBox(), QComboBox()
        self.region, self.role = QComboBox(), QComboBox()
        self.side.addItems([side_word(s) for s in Side])
        self.region.addItems([region_word(r) for r in Region])
        self.role.addItems([tr("no role"), *ALL_ROLES])
        for word, box in (
            (tr("Partner"), self.partner),
            (tr("Side"), self.side),
            (tr("Region"), self.region),
            (tr("Role"), self.role),
        ):
            label = Words(word)
            label.setProperty("quiet", True)
            label.setBuddy(box)
            box.setAccessibleName(word)
            box.setMinimumWidth(72)
            line.addWidget(label)
            line.addWidget(box, 2 if box in (self.partner, self.role) else 1)
        self.role_sure = Words("")
        self.role_sure.setProperty("quiet", True)
        line.addWidget(self.role_sure)
        self.partner.activated.connect(self._partner_picked)
        self.side.activated.connect(lambda i: self._said("side", list(Side)[i]))
        self.region.activated.connect(lambda i: self._said("region", list(Region)[i]))
        self.role.activated.connect(lambda i: self._said("role", ["", *ALL_ROLES][i]))
        return row

    # -- opening, saving ------------------------------------------------------------------

    def begin(self, actor: Figure) -> None:
        """Show the pairs of a character's rig."""
        self._actor = actor
        self.draft = PairsDraft(actor.rig, actor.path)
        self.draft.changed.connect(self._on_changed)
        self._title.setText(tr("Pairs of {name}", name=actor.rig.name))
        self._choose_filter(None)
        self._on_changed()
        self.trial.begin(self.draft, actor.state)
        self.table.setFocus(Qt.FocusReason.OtherFocusReason)

    def end(self) -> None:
        """Keep nothing of a character that has left the stage."""
        self._actor = self.draft = None
        self.table.forget()
        self.trial.end()

    @property
    def unsaved(self) -> int:
        """How many corrections are not saved."""
        return 0 if self.draft is None else len(self.draft.corrections)

    def save(self) -> None:
        """Write the corrections into the sidecar; the window reads the rig again."""
        if self.draft is None or self._actor is None:
            return
        try:
            path = self.draft.save()
        except FoxHandError as error:
            self.failed.emit(error)
            return
        self.told.emit(
            tr(
                "Saved in {name}: it counts wherever this rig is used, so undo leaves "
                "it. The file before is {name}.earlier.",
                name=path.name,
            )
        )
        self.draft = None
        self.saved.emit()

    # -- refreshing -----------------------------------------------------------------------

    def _on_changed(self) -> None:
        draft = self.draft
        if draft is None:
            return
        count = self.unsaved
        self._where.setText(tr("{count} unsaved", count=count) if count else "")
        self.save_button.setEnabled(bool(count))
        self.undo_button.setEnabled(draft.steps.can_undo)
        self.redo_button.setEnabled(draft.steps.can_redo)
        self._show_body()
        self._refresh_doubts()
        self._refresh_table()
        self.trial.try_out()

    def _show_body(self) -> None:
        """Which way the figure looks; one that looks between the axes is said so."""
        assert self.draft is not None
        facing = self.draft.rig.body.facing
        if self.looks.count() > len(LOOKS):
            self.looks.removeItem(len(LOOKS))
        if facing not in LOOKS:
            self.looks.addItem(facing)
        self.looks.setCurrentText(facing)

    def _worn(self) -> None:
        if self.draft is not None:
            self._refresh_doubts()

    def _refresh_doubts(self) -> None:
        while (item := self._doubts.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        assert self.draft is not None
        doubts = doubts_of(self.draft.rig)
        for number, doubt in enumerate(doubts[:5], 1):
            self._doubts.addWidget(self._doubt_row(number, doubt))
        if len(doubts) > 5:
            more = Words(
                tr("and {count} more to look at, under Alone and Name", count=len(doubts) - 5)
            )
            more.setProperty("quiet", True)
            self._doubts.addWidget(more)

    def _doubt_row(self, number: int, doubt: Doubt) -> QWidget:
        assert self.draft is not None
        tokens = self._theme.tokens
        row = QWidget()
        row.setProperty("plate", "warning")
        row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(row)
        line.setContentsMargins(8, 4, 8, 4)
        line.setSpacing(8)
        control = self.draft.rig.controls[doubt.row]
        text = QLabel(
            f'<span style="color:{tokens.warning}; font-weight:600">{number}</span>&nbsp; '
            f"<b>{escape(control.name)}</b> {escape(doubt.text)}"
        )
        text.setTextFormat(Qt.TextFormat.RichText)
        text.setWordWrap(True)
        line.addWidget(text, 1)
        for index, (word, partner) in enumerate(doubt.choices):
            choice = Button(self._theme, word, kind=Kind.SWITCH, height=24)
            choice.setChecked(index == 0)
            choice.clicked.connect(partial(self._pair, control.name, partner))
            line.addWidget(choice)
        return row

    def _choose_filter(self, found: FoundBy | None) -> None:
        self._filter = found
        self._refresh_table()

    def _refresh_table(self) -> None:
        if self.draft is None:
            return
        rig, pairs = self.draft.rig, pairs_of(self.draft.rig)
        for found, chip in self._chips.items():
            count = len(pairs) if found is None else sum(p.found is found for p in pairs)
            word = next(w for w, f in FILTERS if f is found)
            chip.setText(f"{word} {count}")
            chip.setChecked(found is self._filter)
            chip.setVisible(found is None or count > 0)
            chip.updateGeometry()
        text = self.search.text().strip().lower()
        shown = [
            p
            for p in pairs
            if (self._filter is None or p.found is self._filter)
            and any(text in rig.controls[r].name.lower() for r in (p.row, p.other))
        ]
        self.table.show_pairs(rig, shown)
        self._on_chosen(self.table.row)

    def _on_chosen(self, index: int) -> None:
        draft = self.draft
        known = draft is not None and 0 <= index < len(self.table.pairs)
        for box in (self.partner, self.side, self.region, self.role):
            box.setEnabled(known)
            if not known:
                box.setCurrentIndex(-1)
        if draft is None or not known:
            self.role_sure.setText("")
            return
        control = draft.rig.controls[self.table.pairs[index].row]
        others = [c.name for c in draft.rig.controls if c.kind is control.kind and not c.helper]
        self.partner.clear()
        self.partner.addItems([tr("stays alone"), *others])
        self.partner.setCurrentText(control.partner or tr("stays alone"))
        self.side.setCurrentText(side_word(control.side))
        self.region.setCurrentText(region_word(control.region))
        self.role.setCurrentText(control.role or tr("no role"))
        self.role.setEnabled(control.kind is ControlKind.JOINT)
        guess = control.role is not None and control.role_sure < 1.0
        self.role_sure.setText(
            tr("by shape, {role_sure:.0f} %", role_sure=control.role_sure * 100) if guess else ""
        )

    # -- saying ---------------------------------------------------------------------------

    def _current_name(self) -> str:
        assert self.draft is not None
        return self.draft.rig.controls[self.table.pairs[self.table.row].row].name

    def _partner_picked(self, index: int) -> None:
        if self.draft is not None and self.table.row >= 0:
            self._pair(self._current_name(), self.partner.itemText(index) if index else "")

    def _pair(self, name: str, partner: str) -> None:
        if self.draft is not None:
            self.draft.pair(name, partner)

    def _ask_row(self, index: int, at: QPoint) -> None:
        """What can be said of the pair there."""
        draft = self.draft
        if draft is None or not 0 <= index < len(self.table.pairs):
            return
        pair, controls = self.table.pairs[index], draft.rig.controls
        name, menu = controls[pair.row].name, passing_menu(self)
        together = pair.row != pair.other
        apart = menu.addAction(tr("They are no pair"), partial(self._pair, name, ""))
        apart.setEnabled(together)
        itself = menu.addAction(tr("It mirrors onto itself"), partial(self._pair, name, name))
        itself.setEnabled(pair.found is not FoundBy.MIDDLE)
        sides = [(side_word(s), s, s is controls[pair.row].side) for s in Side]
        regions = [(region_word(r), r, r is controls[pair.row].region) for r in Region]
        self._add_choices(menu.addMenu(tr("Side")), "side", sides)
        self._add_choices(menu.addMenu(tr("Region")), "region", regions)
        menu.addSeparator()
        names = dict.fromkeys(controls[r].name for r in (pair.other, pair.row))
        copied = partial(QGuiApplication.clipboard().setText, "\n".join(names))
        menu.addAction(tr_n("Copy the name", "Copy both names", len(names)), copied)
        menu.popup(at)

    def _add_choices(
        self, menu: QMenu, field: str, choices: Sequence[tuple[str, object, bool]]
    ) -> None:
        for word, value, now in choices:
            action = menu.addAction(word, partial(self._said, field, value))
            action.setCheckable(True)
            action.setChecked(now)

    def _look_along(self, index: int) -> None:
        if self.draft is not None and index < len(LOOKS):
            self.draft.look_along(LOOKS[index])

    def _said(self, what: str, value: object) -> None:
        draft = self.draft
        if draft is None or self.table.row < 0:
            return
        name = self._current_name()
        if what == "side" and isinstance(value, Side):
            draft.set_side(name, value)
        elif what == "region" and isinstance(value, Region):
            draft.set_region(name, value)
        else:
            draft.set_role(name, str(value))

    def _set_rule(self, setting: str, rule: object) -> None:
        if self.draft is not None and isinstance(rule, MirrorRule):
            self.draft.set_rule(setting, rule)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)
