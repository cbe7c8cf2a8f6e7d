"""Taking a card: picture, words, and what goes in. Takes the place of the sheets."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from fox_hand.core.camera import Camera
from fox_hand.core.controls import Channel
from fox_hand.core.rig import Rig
from fox_hand.core.view import Picture, Quality, View
from fox_hand.session.capture import CaptureDraft, named
from fox_hand.session.capture_groups import Group
from fox_hand.session.desk import Desk
from fox_hand.session.ports import Pictures, Post
from fox_hand.ui.buttons import Button, Kind, Tick
from fox_hand.ui.capture_frame import CaptureFrame
from fox_hand.ui.capture_parts import LIVE, LivePicture, WarningRow
from fox_hand.ui.look import Look
from fox_hand.ui.stage import Stage

LIVE_DELAY = 60


class CapturePanel(QWidget):
    """Form and list of a card that is being taken."""

    save_asked = Signal()

    def __init__(
        self,
        look: Look,
        desk: Desk,
        stage: Stage,
        frame: CaptureFrame,
        pictures: Pictures,
        post: Post,
    ) -> None:
        super().__init__()
        self._look, self._desk, self._stage, self._frame = look, desk, stage, frame
        self._pictures, self._post = pictures, post
        self._before: Camera | None = None
        self._ticks: list[tuple[Tick, Group]] = []
        self._setting_ticks: list[tuple[Tick, int]] = []
        self._all_groups = False
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(LIVE_DELAY)
        self._timer.timeout.connect(self._ask_live)
        self._build()
        frame.changed.connect(self._timer.start)
        desk.capture_changed.connect(self._on_capture)

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        inside = QWidget()
        self._inner = QVBoxLayout(inside)
        self._inner.setContentsMargins(12, 0, 12, 12)
        self._inner.setSpacing(8)
        self._inner.addLayout(self._picture_and_name())
        self._inner.addLayout(self._words())
        self._inner.addLayout(self._kinds())
        self._left_out = WarningRow(self._look, "circle-alert", "Include")
        self._left_out.button.clicked.connect(self._include_moved)
        self._untouched = WarningRow(self._look, "circle-dashed", "Leave out")
        self._untouched.button.clicked.connect(self._drop_untouched)
        self._inner.addWidget(self._left_out)
        self._inner.addWidget(self._untouched)
        self._list = QVBoxLayout()
        self._list.setSpacing(0)
        self._inner.addLayout(self._list)
        self._inner.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(inside)
        column.addWidget(self._title())
        column.addWidget(scroll, 1)
        column.addWidget(self._footer())

    def _title(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(36)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 8, 0)
        title = QLabel("Capture a card")
        title.setProperty("role", "title")
        source = QLabel("from the figure as it stands")
        source.setProperty("quiet", True)
        close = Button(
            self._look, icon="x", kind=Kind.FLAT, tip="Cancel (Esc)", height=24, icon_size=14
        )
        close.clicked.connect(self._desk.cancel_capture)
        line.addWidget(title)
        line.addWidget(source, 1)
        line.addWidget(close)
        return row

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setProperty("quiet", True)
        label.setProperty("small", True)
        return label

    def _field(self, name: str) -> QLineEdit:
        field = QLineEdit()
        field.setFixedHeight(26)
        field.setAccessibleName(name)
        field.installEventFilter(self)
        return field

    def _picture_and_name(self) -> QHBoxLayout:
        self.live = LivePicture(self._look)
        caption = self._label("live picture")
        caption.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.live)
        left.addWidget(caption)
        left.addStretch(1)
        self.name = self._field("Name")
        self.name.textChanged.connect(self._renamed)
        self.sheet = self._field("Sheet")
        self.sheet.setPlaceholderText("none: a loose card")
        self.sheet.textChanged.connect(self._filed)
        self._sheet_button = Button(
            self._look,
            icon="chevron-down",
            kind=Kind.FLAT,
            tip="Choose a sheet",
            height=26,
            icon_size=14,
        )
        self._sheet_button.clicked.connect(self._choose_sheet)
        sheet = QHBoxLayout()
        sheet.setSpacing(2)
        sheet.addWidget(self.sheet, 1)
        sheet.addWidget(self._sheet_button)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self._label("Name"))
        right.addWidget(self.name)
        right.addWidget(self._label("Sheet (a new name makes a new one)"))
        right.addLayout(sheet)
        right.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addLayout(left)
        row.addLayout(right, 1)
        return row

    def _words(self) -> QGridLayout:
        self.tags, self.author = self._field("Tags"), self._field("Author")
        self.licence = self._field("Licence")
        self.tags.setPlaceholderText("words, with commas")
        self.note = QPlainTextEdit()
        self.note.setFixedHeight(44)
        self.note.setAccessibleName("Note")
        self.note.setTabChangesFocus(True)
        self.note.installEventFilter(self)
        self.tags.textChanged.connect(self._worded)
        self.author.textChanged.connect(self._worded)
        self.licence.textChanged.connect(self._worded)
        self.note.textChanged.connect(self._worded)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        grid.addWidget(self._label("Tags"), 0, 0)
        grid.addWidget(self._label("Author"), 0, 1)
        grid.addWidget(self._label("Licence"), 0, 2)
        grid.addWidget(self.tags, 1, 0)
        grid.addWidget(self.author, 1, 1)
        grid.addWidget(self.licence, 1, 2)
        grid.addWidget(self._label("Note"), 2, 0)
        grid.addWidget(self.note, 3, 0, 1, 3)
        for column, stretch in enumerate((4, 3, 3)):
            grid.setColumnStretch(column, stretch)
        return grid

    def _kinds(self) -> QVBoxLayout:
        title = QLabel("What goes in")
        title.setProperty("role", "title")
        self._summary = QLabel("")
        self._summary.setProperty("quiet", True)
        head = QHBoxLayout()
        head.addWidget(title)
        head.addWidget(self._summary, 1)
        self._kind_buttons: dict[Channel, Button] = {}
        line = QHBoxLayout()
        line.setSpacing(4)
        for kind, word in (
            (Channel.TURN, "Turns"),
            (Channel.MOVE, "Moves"),
            (Channel.SCALE, "Scale"),
        ):
            button = Button(self._look, word, kind=Kind.SWITCH, height=24)
            button.clicked.connect(lambda on, k=kind: self._set_kind(k, on))
            self._kind_buttons[kind] = button
            line.addWidget(button)
        line.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(4)
        column.addLayout(head)
        column.addLayout(line)
        return column

    def _footer(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(52)
        row.setObjectName("footer")
        row.setStyleSheet(f"QWidget#footer {{ border-top: 1px solid {self._look.tokens.line}; }}")
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 12, 0)
        line.setSpacing(8)
        self._problem = QLabel("")
        self._problem.setProperty("quiet", True)
        self._problem.setWordWrap(True)
        cancel = Button(self._look, "Cancel", key="Esc")
        cancel.clicked.connect(self._desk.cancel_capture)
        self.save = Button(self._look, "Save card", kind=Kind.MAIN, key="Enter")
        self.save.clicked.connect(self.save_asked)
        line.addWidget(self._problem, 1)
        line.addWidget(cancel)
        line.addWidget(self.save)
        return row

    # -- showing --------------------------------------------------------------------------

    def _on_capture(self) -> None:
        draft = self._desk.draft
        self._stage.capturing = draft is not None
        self._frame.setVisible(draft is not None)
        self._pictures.forget("live")
        if draft is None:
            if self._before is not None:  # the stage goes back to where it looked from
                self._stage.set_camera(self._before)
                self._before = None
            self._stage.refresh()
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)
            return
        self._before = self._stage.camera
        draft.changed.connect(self._refresh)
        for field, text in (
            (self.name, draft.name),
            (self.sheet, draft.sheet),
            (self.tags, ""),
            (self.author, draft.author),
            (self.licence, draft.licence),
        ):
            field.blockSignals(True)
            field.setText(text)
            field.blockSignals(False)
        self.note.setPlainText("")
        self._all_groups = False
        self._fill_list(draft)
        self._frame.setGeometry(self._stage.rect())
        self._frame.raise_()
        self._frame.frame(draft.actor, sorted(draft.rows))
        self._stage.refresh()
        self._refresh()
        self.name.setFocus(Qt.FocusReason.OtherFocusReason)

    def _fill_list(self, draft: CaptureDraft) -> None:
        while (item := self._list.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        self._ticks, self._setting_ticks = [], []
        differs = draft.actor.differs()

        def rank(group: Group) -> int:
            """What goes in first, then what is away from rest, then the others."""
            if any(r in draft.rows for r in group.rows):
                return 0
            return 1 if differs[list(group.rows)].any() else 2

        ordered = sorted(draft.groups, key=rank)
        first = [g for g in ordered if self._all_groups or rank(g) < 2 or g.own_turn]
        for group in first:
            self._add_group(draft, group)
        if len(first) < len(ordered):
            more = Button(
                self._look,
                f"Show {len(ordered) - len(first)} more, all at rest",
                kind=Kind.FLAT,
                icon="chevron-down",
                height=24,
                icon_size=14,
            )
            more.clicked.connect(self._show_all_groups)
            self._list.addWidget(more)

    def _show_all_groups(self) -> None:
        self._all_groups = True
        if self._desk.draft is not None:
            self._fill_list(self._desk.draft)
            self._refresh()

    def _add_group(self, draft: CaptureDraft, group: Group) -> None:
        rig = draft.actor.rig
        tick = Tick(self._look, group.label)
        tick.clicked.connect(lambda _=False, g=group: self._toggle(g))
        self._ticks.append((tick, group))
        self._list.addWidget(tick)
        if any(r in draft.rows for r in group.rows):
            for row in (s for r in group.rows for s in rig.settings_of[r]):
                self._add_setting(rig, row)

    def _add_setting(self, rig: Rig, row: int) -> None:
        setting = rig.settings[row]
        holder = rig.controls[setting.control]
        side = {"left": " L", "right": " R"}.get(holder.side.value, "")
        tick = Tick(self._look, f"{holder.label}{side}: {setting.label.lower()}", indent=24)
        tick.clicked.connect(lambda on, r=row: self._toggle_setting(r, on))
        self._setting_ticks.append((tick, row))
        self._list.addWidget(tick)

    def _refresh(self) -> None:
        draft = self._desk.draft
        if draft is None:
            return
        rig = draft.actor.rig
        for tick, group in self._ticks:
            inside = [r for r in group.rows if r in draft.rows]
            detail = f"{len(inside)} of {len(group.rows)}" if inside else "left out"
            tick.set_state(bool(inside), 0 < len(inside) < len(group.rows), detail)
        for tick, row in self._setting_ticks:
            value = f"{draft.actor.state.settings[row]:.2f}"
            on = row in draft.settings
            tick.set_state(on, False, value if on else "left out")
        for kind, button in self._kind_buttons.items():
            button.setChecked(kind in draft.kinds)
            known = any(kind in rig.controls[r].channels for r in draft.rows)
            button.setEnabled(known)
        total = len([c for c in rig.controls if not c.helper])
        self._summary.setText(
            f"{len(draft.rows)} of {total} controls, {len(draft.settings)} settings"
        )
        moved, untouched = draft.moved_but_left_out(), draft.untouched_but_in()
        self._left_out.tell(f"Moved, but not going in: {len(moved)}", _names(rig, moved))
        self._untouched.tell(f"Going in, but never moved: {len(untouched)}", _names(rig, untouched))
        problem = draft.why_not()
        self.save.setEnabled(problem is None)
        self._problem.setText(problem or "")

    def set_saving(self, saving: bool) -> None:
        """Nothing is saved twice."""
        self.save.setEnabled(not saving)

    # -- editing --------------------------------------------------------------------------

    def _toggle(self, group: Group) -> None:
        draft = self._desk.draft
        if draft is not None:
            whole = all(r in draft.rows for r in group.rows)
            draft.set_rows(group.rows, not whole)
            self._fill_list(draft)  # the settings of a group show while it is in
            self._refresh()

    def _toggle_setting(self, row: int, on: bool) -> None:
        if self._desk.draft is not None:
            self._desk.draft.set_setting(row, on)

    def _set_kind(self, kind: Channel, on: bool) -> None:
        if self._desk.draft is not None:
            self._desk.draft.set_kind(kind, on)

    def _include_moved(self) -> None:
        draft = self._desk.draft
        if draft is not None:
            draft.set_rows(draft.moved_but_left_out(), True)
            self._fill_list(draft)
            self._refresh()

    def _drop_untouched(self) -> None:
        draft = self._desk.draft
        if draft is not None:
            draft.set_rows(draft.untouched_but_in(), False)
            self._fill_list(draft)
            self._refresh()

    def _renamed(self, text: str) -> None:
        if self._desk.draft is not None:
            self._desk.draft.name = text
            self._refresh()

    def _filed(self, text: str) -> None:
        if self._desk.draft is not None:
            self._desk.draft.sheet = text.strip().strip("/")

    def _worded(self) -> None:
        draft = self._desk.draft
        if draft is not None:
            words = (w.strip() for w in self.tags.text().split(","))
            draft.tags = tuple(dict.fromkeys(w for w in words if w))
            draft.author, draft.licence = self.author.text(), self.licence.text()
            draft.note = self.note.toPlainText()

    def _choose_sheet(self) -> None:
        menu = QMenu(self)
        target = self._desk.shelf.target
        for sheet in target.sheets if target is not None else ():
            menu.addAction(sheet, partial(self.sheet.setText, sheet))
        menu.popup(self._sheet_button.mapToGlobal(self._sheet_button.rect().bottomLeft()))

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            newline = watched is self.note and event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            if enter and not newline:
                if self.save.isEnabled():
                    self.save_asked.emit()
                return True
        return False

    # -- picture --------------------------------------------------------------------------

    def _ask_live(self) -> None:
        draft = self._desk.draft
        if draft is None:
            return
        draft.frame = self._frame.camera()
        view = View(
            (draft.standing,),
            draft.frame,
            LIVE * 2,
            LIVE * 2,
            Quality.CARD,
            draft.ground,
            style=draft.style,
        )

        def ready(result: Picture | Exception) -> None:
            self._post(lambda: self._live_came(result))

        self._pictures.submit("live", view, ready)

    def _live_came(self, result: Picture | Exception) -> None:
        if not isinstance(result, Exception):
            height, width = result.pixels.shape[:2]
            self.live.image = QImage(
                result.pixels.data, width, height, width * 4, QImage.Format.Format_RGBA8888
            ).copy()
            self.live.update()


def _names(rig: Rig, rows: Sequence[int]) -> list[str]:
    return [named(rig, row) for row in rows]
