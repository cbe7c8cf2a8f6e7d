"""Taking a card: picture, words, and what goes in. Takes the place of the sheets."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from fox_hand.base.language import tr, tr_n, within
from fox_hand.core.model.controls import Channel
from fox_hand.core.naming.part_words import side_word
from fox_hand.core.view.camera import Camera
from fox_hand.core.view.render_request import Picture, Quality, View
from fox_hand.library.format.entry import Entry
from fox_hand.session.app.needs import Capturing
from fox_hand.session.capturing.away import channel_name, setting_words, way_words
from fox_hand.session.capturing.capture_controller import CaptureState
from fox_hand.session.capturing.draft import CaptureDraft
from fox_hand.session.capturing.presets import habit_of
from fox_hand.session.runtime.ports import Pictures, Post
from fox_hand.ui.capture.capture_bar import CaptureBar
from fox_hand.ui.capture.capture_form import CaptureForm
from fox_hand.ui.capture.capture_frame import CaptureFrame
from fox_hand.ui.capture.capture_list import CaptureList
from fox_hand.ui.capture.capture_parts import LIVE, WarningRow
from fox_hand.ui.capture.capture_words import words_of
from fox_hand.ui.capture.similar_card import SimilarCard
from fox_hand.ui.stage.stage_view import Stage
from fox_hand.ui.theme.plain_text import Words, menu_word, plain_tip
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Tick
from fox_hand.ui.widgets.deferred_update import next_turn, once_after
from fox_hand.ui.widgets.flow import Flow
from fox_hand.ui.widgets.passing_menu import passing_menu

LIVE_DELAY = 60
KINDS = ((Channel.TURN, tr("Turns")), (Channel.MOVE, tr("Moves")), (Channel.SCALE, tr("Scale")))
SINCE = {"rest": tr("rest"), "card": tr("the last card"), "key": tr("the last key")}


class CapturePanel(QWidget):
    """Form and list of a card that is being taken."""

    save_asked = Signal()
    batch_asked = Signal()

    def __init__(
        self,
        theme: Theme,
        workspace: Capturing,
        stage: Stage,
        frame: CaptureFrame,
        pictures: Pictures,
        post: Post,
    ) -> None:
        super().__init__()
        self._theme, self._workspace, self._stage, self._frame = theme, workspace, stage, frame
        self._pictures, self._post = pictures, post
        self._before: Camera | None = None
        self._looked: tuple[object, ...] = ()
        self.setProperty("panel", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._timer = once_after(self, LIVE_DELAY, self._ask_live)
        # what is pulled on the stage is looked at a little later
        self._follow = once_after(self, LIVE_DELAY, self._stand_anew)
        self.bar = CaptureBar(theme, stage)
        self.form = CaptureForm(theme, workspace)
        self.list = CaptureList(theme)
        self.twin = SimilarCard(theme, workspace)
        self._build()
        self._connect()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        inside = QWidget()
        inner = QVBoxLayout(inside)
        inner.setContentsMargins(12, 0, 12, 12)
        inner.setSpacing(8)
        inner.addWidget(self.form)
        inner.addWidget(self.twin)
        inner.addLayout(self._kinds())
        self.left_out = WarningRow(self._theme, "circle-alert", tr("Include"))
        self.untouched = WarningRow(self._theme, "circle-dashed", tr("Leave out"))
        self.needed = WarningRow(self._theme, "info", tr("Take in"))
        for warning in (self.left_out, self.untouched, self.needed):
            inner.addWidget(warning)
        self.both = Tick(self._theme, "")
        inner.addWidget(self.both)
        inner.addWidget(self.list)
        inner.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._title())
        self._problem = Words("")
        self._problem.setProperty("quiet", True)
        self._problem.setContentsMargins(12, 4, 12, 4)
        column.addWidget(scroll, 1)
        column.addWidget(self._problem)
        column.addWidget(self._footer())

    def _title(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(36)
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 8, 0)
        self._heading, self._source = Words(tr("Capture a card")), Words("")
        self._heading.setProperty("role", "title")
        self._source.setProperty("quiet", True)
        self._source.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        close = Button(
            self._theme, icon="x", kind=Kind.FLAT, tip=tr("Cancel"), height=24, icon_size=14
        )
        close.clicked.connect(self._workspace.capturing.cancel)
        line.addWidget(self._heading)
        line.addWidget(self._source, 1)
        line.addWidget(close)
        return row

    def _kinds(self) -> QVBoxLayout:
        title = Words(tr("What goes in"))
        title.setProperty("role", "title")
        self._summary = Words("")
        self._summary.setProperty("quiet", True)
        head = Flow(8)  # in as many lines as a narrow window and a language need
        head.addWidget(title)
        head.addWidget(self._summary)
        self._kind_buttons: dict[Channel, Button] = {}
        line = Flow()
        for kind, word in KINDS:
            button = Button(self._theme, word, kind=Kind.SWITCH, height=24)
            button.clicked.connect(lambda on, k=kind: self._set_kind(k, on))
            self._kind_buttons[kind] = button
            line.addWidget(button)
        self.habit = Button(self._theme, tr("Habit"), kind=Kind.FLAT, menu=True, height=24)
        self.habit.clicked.connect(self._ask_habit)
        self.since = Button(self._theme, tr("Since rest"), kind=Kind.FLAT, menu=True, height=24)
        self.since.setToolTip(
            tr("What counts as moved: compared with rest, or with what came last")
        )
        self.since.clicked.connect(self._choose_since)
        line.addWidget(self.since)
        line.addWidget(self.habit)
        column = QVBoxLayout()
        column.setSpacing(4)
        column.addLayout(head)
        column.addLayout(line)
        return column

    def _footer(self) -> QWidget:
        row = QWidget()
        row.setFixedHeight(52)
        row.setProperty("plate", "below")
        line = QHBoxLayout(row)
        line.setContentsMargins(12, 0, 12, 0)
        line.setSpacing(8)
        self.batch = Button(self._theme, tr("Marks …"), tip=tr("Take every marked frame as a card"))
        cancel = Button(self._theme, tr("Cancel"), key="Esc")
        cancel.clicked.connect(self._workspace.capturing.cancel)
        self.save = Button(self._theme, tr("Save card"), kind=Kind.MAIN, key="Enter")
        self.save.clicked.connect(self.save_asked)
        line.addStretch(1)
        line.addWidget(self.batch)
        line.addWidget(cancel)
        line.addWidget(self.save)
        return row

    def _connect(self) -> None:
        self._frame.changed.connect(self._timer.start)
        self._workspace.capturing.changed.connect(self._on_capture)
        self.form.edited.connect(self._refresh_ready)
        self.form.filed.connect(self._on_filed)
        self.form.save_asked.connect(self._save_if_ready)
        self.left_out.button.clicked.connect(self._include_moved)
        self.untouched.button.clicked.connect(self._drop_untouched)
        self.needed.button.clicked.connect(self._take_needed)
        self.both.clicked.connect(self._set_both)
        self.twin.chosen.connect(self._on_twin)
        self.bar.framed.connect(self._frame_again)
        self.batch.clicked.connect(self.batch_asked)

    @property
    def name(self) -> QWidget:
        """The field for the card's name."""
        return self.form.name

    # -- showing --------------------------------------------------------------------------

    def _on_capture(self) -> None:
        draft = self._workspace.capturing.draft
        self._stage.pictures.plain = draft is not None
        self._frame.setVisible(draft is not None)
        self._pictures.forget("live")
        self.bar.begin(draft)
        self.twin.begin(draft)
        if draft is None:
            self.list.end()
            if self._before is not None:  # the stage goes back to where it looked from
                self._stage.set_camera(self._before)
                self._before = None
            self._stage.refresh()
            self._stage.setFocus(Qt.FocusReason.OtherFocusReason)
            return
        if self._before is None:
            self._before = self._stage.camera
        draft.changed.connect(self._refresh)
        draft.stands.connect(self._stand_soon)
        self.form.show_draft(draft)
        self.setUpdatesEnabled(False)  # the list changes all of it: it is painted once, with it
        next_turn(partial(self._fill_later, draft))
        self._looked = ()
        self._frame.setGeometry(self._stage.rect())
        self._frame.raise_()
        self.bar.place()
        self._frame_first(draft)
        self._stage.refresh()
        self._refresh()
        self.form.name.setFocus(Qt.FocusReason.OtherFocusReason)
        if draft.retaken is None and not draft.exact:
            self._take_habit(draft.sheet)

    def _fill_later(self, draft: CaptureDraft) -> None:
        next_turn(partial(self.setUpdatesEnabled, True))
        if draft is self._workspace.capturing.draft:
            self.list.begin(draft)

    def _frame_first(self, draft: CaptureDraft) -> None:
        if draft.frame is not None:
            self._frame.show_camera(draft.frame)
        else:
            self._frame_again()

    def _frame_again(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is not None:
            self._frame.frame(draft.actor, sorted(draft.rows))

    def _refresh(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is None:
            return
        picture_only = draft.retaken is not None
        self._title_words(draft)
        self.list.refresh()
        for part in (self.list, self.both, self.since, self.habit, self._summary):
            part.setEnabled(not picture_only)
        rig = draft.actor.rig
        inside = draft.channel_ids
        for kind, word in KINDS:
            button = self._kind_buttons[kind]
            button.setChecked(kind in draft.kinds)
            count = len([x for x in inside if x.kind.value == kind.value])
            said = tr("{count} going in", count=count)
            button.setToolTip(said if count else tr("No {word} go in", word=within(word)))
            known = any(kind in rig.controls[r].channels for r in draft.chosen.candidates)
            button.setEnabled(known and not picture_only)
        total = len(rig.listed(draft.state))
        self._summary.setText(
            tr(
                "{count} of {total} controls, {settings}",
                count=len(draft.rows),
                total=total,
                settings=tr_n("{number} setting", "{number} settings", len(draft.settings)),
            )
        )
        self._refresh_warnings(draft, picture_only)
        other = {"left": "right", "right": "left"}.get(self._own_side(draft), "")
        self.both.setVisible(bool(other) and not picture_only)
        self.both.setText(tr("Both sides: add the {other} one, mirrored", other=side_word(other)))
        self.both.setAccessibleName(self.both.text())
        self.both.set_state(draft.both, False, "")
        self.bar.refresh()
        self._refresh_ready()
        self.batch.setVisible(draft.retaken is None and draft.over is None and self._marks() > 0)
        self._look_again(draft)

    def _stand_soon(self) -> None:
        self._follow.start()

    def _stand_anew(self) -> None:
        self._looked = ()
        self._refresh()

    def _refresh_ready(self) -> None:
        """Whether it can be saved; all that depends on the words."""
        draft = self._workspace.capturing.draft
        if draft is not None:
            problem = draft.why_not()
            saving = self._workspace.capturing.state is CaptureState.SAVING
            self.save.setEnabled(problem is None and not saving)
            self._problem.setText(problem or "")
            self._problem.setVisible(problem is not None)

    def _own_side(self, draft: CaptureDraft) -> str:
        if not draft.both:
            return draft.side
        draft.both = False
        side = draft.side
        draft.both = True
        return side

    def _marks(self) -> int:
        marked, draft = self._workspace.capturing.marked, self._workspace.capturing.draft
        clip = draft is not None and draft.span is not None
        return len(marked.marks) if marked is not None and not clip else 0

    def _title_words(self, draft: CaptureDraft) -> None:
        title, source, saves = words_of(draft)
        self._heading.setText(title)
        self._source.setText(source)
        self._source.setToolTip(plain_tip(source))
        self.save.setText(saves)
        self.save.setAccessibleName(self.save.text())
        self.save.updateGeometry()

    def _refresh_warnings(self, draft: CaptureDraft, picture_only: bool) -> None:
        rig, ways = draft.actor.rig, draft.moved()
        moved = [] if picture_only else draft.moved_but_left_out()
        untouched = [] if picture_only else draft.untouched_but_in()
        needed = [] if picture_only else draft.depends_on()
        self.left_out.tell(
            tr("Moved, but not going in: {count}", count=len(moved)),
            [way_words(rig, draft.state, x, ways[x]) for x in moved],
        )
        nothing = len(untouched) == len(draft.channel_ids)
        self.untouched.tell(
            tr("Nothing that goes in has moved")
            if nothing
            else tr("Going in, but never moved: {count}", count=len(untouched)),
            [channel_name(rig, x) for x in untouched],
        )
        self.untouched.button.setVisible(not nothing)  # nothing at all would be left
        self.needed.tell(
            tr("The shape depends on {count} more", count=len(needed)),
            [setting_words(rig, draft.state, row) for row in needed],
        )
        self.since.setText(tr("Since {since}", since=SINCE[draft.since]))
        self.since.setVisible(bool(draft.actor.landmarks))

    def _look_again(self, draft: CaptureDraft) -> None:
        """Ask for the picture and for likes only where something they depend on changed."""
        holds = frozenset(draft.channel_ids), draft.both
        looks = draft.style, draft.ground, draft.both, draft.own_picture
        if self._looked[:1] != (holds,):
            self.twin.look_again()
        if self._looked[1:] != (looks,):
            self._timer.start()
        self._looked = (holds, looks)

    def set_saving(self, saving: bool) -> None:
        """Nothing is saved twice, and what is being written is not changed meanwhile."""
        for part in (self.form, self.list, self.batch, self.both):
            part.setEnabled(not saving)
        self._refresh_ready()

    # -- editing --------------------------------------------------------------------------

    def _save_if_ready(self) -> None:
        if self.save.isEnabled():
            self.save_asked.emit()

    def _set_kind(self, kind: Channel, on: bool) -> None:
        if self._workspace.capturing.draft is not None:
            self._workspace.capturing.draft.set_kind(kind, on)

    def _include_moved(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is not None:
            draft.set_channels(draft.moved_but_left_out(), True)
            self.list.fill()

    def _drop_untouched(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is not None:
            draft.set_channels(draft.untouched_but_in(), False)
            self.list.fill()

    def _take_needed(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is not None:
            for setting in draft.depends_on():
                draft.set_setting(setting, True)
            self.list.fill()

    def _set_both(self, on: bool) -> None:
        if self._workspace.capturing.draft is not None:
            self._workspace.capturing.draft.set_both(on)

    def _choose_since(self) -> None:
        draft, menu = self._workspace.capturing.draft, passing_menu(self)
        if draft is None:
            return
        for key in ("rest", *draft.actor.landmarks):
            action = menu.addAction(
                tr("Since {since}", since=SINCE[key]), partial(draft.set_since, key)
            )
            action.setCheckable(True)
            action.setChecked(key == draft.since)
        menu.popup(self.since.mapToGlobal(self.since.rect().bottomLeft()))

    def _on_twin(self, word: str, entry: Entry | None) -> None:
        draft = self._workspace.capturing.draft
        if draft is None or entry is None:
            return
        if word == "over":
            draft.store_over(entry)
        elif word == "variant":
            draft.make_variant(entry)
        else:
            draft.over = None
        self.form.show_draft(draft)
        self._refresh()

    # -- habits ---------------------------------------------------------------------------

    def _on_filed(self, sheet: str) -> None:
        self._take_habit(sheet)

    def _take_habit(self, sheet: str) -> None:
        """Kinds of channel and style as the sheet has them by habit."""
        draft, target = self._workspace.capturing.draft, self._workspace.open_libraries.target
        habit = target.habit(sheet) if target is not None else None
        if draft is not None and habit is not None and draft.over is None:
            draft.take_habit(habit)
            self.list.fill()
            self._refresh()

    def _ask_habit(self) -> None:
        draft, target, menu = (
            self._workspace.capturing.draft,
            self._workspace.open_libraries.target,
            passing_menu(self),
        )
        if draft is None or target is None:
            return
        sheet = menu_word(draft.sheet or tr("loose cards"))
        keep = menu.addAction(
            tr("Take all of {sheet} like this", sheet=sheet), partial(self._keep_habit, draft)
        )
        keep.setEnabled(bool(draft.sheet) and target.writable)
        drop = menu.addAction(
            tr("No habit for {sheet}", sheet=sheet),
            partial(self._workspace.sheet_commands.set_habit, target, draft.sheet, None),
        )
        drop.setEnabled(target.habit(draft.sheet) is not None)
        menu.popup(self.habit.mapToGlobal(self.habit.rect().bottomLeft()))

    def _keep_habit(self, draft: CaptureDraft) -> None:
        target = self._workspace.open_libraries.target
        if target is not None:
            self._workspace.sheet_commands.set_habit(target, draft.sheet, habit_of(draft))

    # -- picture --------------------------------------------------------------------------

    def _ask_live(self) -> None:
        draft = self._workspace.capturing.draft
        if draft is None:
            return
        draft.frame = self._frame.camera()
        if self.form.show_picture(draft):
            return
        size = LIVE * 2
        view = View(
            (draft.standing,),
            draft.frame,
            size,
            size,
            Quality.CARD,
            draft.ground,
            style=draft.style,
        )

        def ready(result: Picture | Exception) -> None:
            self._post(lambda: self._live_came(result))

        self._pictures.submit("live", view, ready)

    def _live_came(self, result: Picture | Exception) -> None:
        draft = self._workspace.capturing.draft
        own = draft is not None and draft.own_picture is not None
        if not isinstance(result, Exception) and not own:
            height, width = result.pixels.shape[:2]
            self.form.live.image = QImage(
                result.pixels.data,
                width,
                height,
                width * 4,
                QImage.Format.Format_RGBA8888_Premultiplied,
            ).copy()
            self.form.live.update()
