"""The Assemble screen: parts of drawings in order, pivots, what hangs on what, and a puppet made
of them."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.core.puppet.puppet import Aside, Guess, Puppet
from fox_hand.session.puppets.assembly import PuppetAssembly
from fox_hand.session.puppets.more_drawings import ALL_VIEWS
from fox_hand.session.runtime.jobs import JobRunner
from fox_hand.ui.screens.assemble.aside_strip import AsideStrip
from fox_hand.ui.screens.assemble.assemble_canvas import AssembleCanvas
from fox_hand.ui.screens.assemble.guess_rows import GuessRows
from fox_hand.ui.screens.assemble.part_images import PartImages
from fox_hand.ui.screens.assemble.part_panel import PartPanel
from fox_hand.ui.screens.assemble.parts_list import PartsList
from fox_hand.ui.theme.plain_text import Words
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind, Segments
from fox_hand.ui.widgets.key_map import ENTER, KeyMap, LocalKey
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.screen_parts import back_to_stage, screen_panel, scrolled, undo_and_redo

LEFT, RIGHT, GUESSES, NO_GUESSES = 264, 352, 144, 52
LOOK = 2000  # milliseconds between two looks at the drawings on disk


class AssembleScreen(QWidget):
    """Takes the place of the columns while drawings are put together.

    Args:
        theme, jobs: colours, and where drawings are unpacked.
    """

    closed = Signal()
    failed = Signal(object)  # an error, in words
    told = Signal(str)
    make_asked = Signal(object)  # PuppetAssembly
    again_asked = Signal(object)  # PuppetAssembly whose drawings have changed
    more_asked = Signal(object)  # PuppetAssembly that is to have more drawings
    view_asked = Signal(object, str)  # PuppetAssembly that is to have one more view, and which

    def __init__(self, theme: Theme, jobs: JobRunner) -> None:
        super().__init__()
        self._theme, self._jobs = theme, jobs
        self._looking = False
        self._watch = QTimer(self)
        self._watch.setInterval(LOOK)
        self.assembly: PuppetAssembly | None = None
        self.images = PartImages(jobs, self._picture_came)
        self.back = back_to_stage(theme)
        self.undo_button, self.redo_button = undo_and_redo(theme)
        self.title, self.where = Words(tr("Assemble a flat puppet")), Words("")
        self.title.setProperty("role", "screen")
        self.where.setProperty("quiet", True)
        self.list = PartsList(theme, self.images.image)
        self.canvas = AssembleCanvas(theme, self.images.image)
        self.guesses = GuessRows(theme)
        self.panel = PartPanel(theme, self.images.image)
        self.aside = AsideStrip(theme, self.images.image)
        self.switches = {
            name: Button(theme, word, kind=Kind.SWITCH, height=24, tip=tip)
            for name, word, tip in (
                ("apart", tr("Apart"), tr("Draw them apart")),
                ("limits", tr("Limits"), tr("How far the chosen part turns; pull the ends")),
                ("others", tr("Other views"), tr("The other views, small")),
                ("pose", tr("Pose it"), tr("Swing parts to try pivots and limits; all goes back")),
            )
        }
        self.apart, self.pose = self.switches["apart"], self.switches["pose"]
        self.more = Button(theme, tr("Drawings"), icon="plus", height=24, tip=tr("More pictures"))
        self.more_views = Button(theme, tr("View"), icon="plus", height=24, tip=tr("One more view"))
        self.again = Button(theme, tr("Drawn anew: read again"), icon="refresh-cw", height=24)
        self.again.hide()
        self.keep_button = Button(
            theme, tr("Keep as draft"), tip=tr("Write what was said beside them")
        )
        self.make_button = Button(theme, tr("Make the puppet"), kind=Kind.MAIN, key="Enter")
        self.views: Segments | None = None
        self._view_row = QHBoxLayout()
        self.view, self.part = "", ""
        self._shown_views: tuple[str, ...] = ()
        self.keys = KeyMap([LocalKey(ENTER, self._make)])
        self._build()
        self._connect()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setContentsMargins(12, 8, 12, 0)
        top.setSpacing(12)
        for widget in (self.back, self.title, self.where):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(self.again)
        top.addWidget(self.undo_button)
        top.addWidget(self.redo_button)
        body = QHBoxLayout()
        body.setContentsMargins(12, 8, 12, 12)
        body.setSpacing(12)
        for panel in (self._left(), self._middle(), self._right()):
            body.addWidget(panel, 1 if panel.maximumWidth() > RIGHT else 0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(top)
        column.addLayout(body, 1)

    def _left(self) -> QWidget:
        left = screen_panel()
        left.setFixedWidth(LEFT)
        head, front = Words(tr("Parts")), Words(tr("front on top"))
        head.setProperty("role", "title")
        front.setProperty("quiet", True)
        line = QHBoxLayout()
        line.setContentsMargins(12, 8, 12, 4)
        line.setSpacing(8)
        line.addWidget(head)
        line.addWidget(front, 1)
        line.addWidget(self.more)
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 8)
        column.setSpacing(0)
        column.addLayout(line)
        column.addWidget(self.list, 1)
        column.addWidget(self.aside)
        return left

    def _middle(self) -> QWidget:
        middle, below = QWidget(), screen_panel()
        self._view_row.setContentsMargins(0, 0, 0, 0)
        self._view_row.setSpacing(8)
        self._view_row.addWidget(self.more_views)
        self._view_row.addStretch(1)
        floating = QWidget(self.canvas)
        floating.setProperty("floating", True)
        floating.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        floating.move(12, 12)
        line = QHBoxLayout(floating)
        line.setContentsMargins(4, 4, 4, 4)
        line.setSpacing(4)
        for name, button in self.switches.items():
            button.setCheckable(True)
            button.setChecked(name == "limits")
            line.addWidget(button)
        beside = QVBoxLayout(below)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.guesses)
        self._below = below
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(self._view_row)
        column.addWidget(self.canvas, 1)
        column.addWidget(below)
        return middle

    def _right(self) -> QWidget:
        right = screen_panel()
        right.setFixedWidth(RIGHT)
        foot = QHBoxLayout()
        foot.setContentsMargins(12, 8, 12, 12)
        foot.addWidget(self.keep_button)
        foot.addStretch(1)
        foot.addWidget(self.make_button)
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(scrolled(self.panel), 1)
        column.addLayout(foot)
        return right

    def _connect(self) -> None:
        self.back.clicked.connect(self.closed)
        self.undo_button.clicked.connect(self._undo)
        self.redo_button.clicked.connect(self._redo)
        self.list.chosen.connect(self.choose)
        self.list.placed.connect(self._place)
        self.canvas.chosen.connect(self.choose)
        self.canvas.refused.connect(self.failed)
        self.panel.refused.connect(self.failed)
        self.panel.told.connect(self.told)
        for button in self.switches.values():
            button.clicked.connect(self._switched)
        self.pose.clicked.connect(lambda on: self.canvas.set_posing(bool(on)))
        self.aside.wanted.connect(self._use)
        self.again.clicked.connect(lambda: self.again_asked.emit(self.assembly))
        self.more.clicked.connect(lambda: self.more_asked.emit(self.assembly))
        self.more_views.clicked.connect(self._ask_view)
        self._watch.timeout.connect(self._look)
        self.guesses.yes.connect(self._answer)
        self.guesses.yes_to_all.connect(self._answer_all)
        self.guesses.shown.connect(self._show_guess)
        self.keep_button.clicked.connect(self.keep)
        self.make_button.clicked.connect(self._make)

    # -- content --------------------------------------------------------------------------

    def begin(self, assembly: PuppetAssembly) -> None:
        """Show drawings that were read."""
        self.end()
        self.assembly = assembly
        self._watch.start()
        self.again.hide()
        self.canvas.look_at_all()
        assembly.changed.connect(self.refresh)
        self.canvas.assembly = assembly
        self._show_views()
        first = assembly.puppet.guesses
        named = next((g.part for g in first if g.view == self.view), "")
        self.part = named or assembly.puppet.of_view(self.view)[0].name
        self.refresh()
        if assembly.puppet.notes:
            self.told.emit(" ".join(assembly.puppet.notes))

    def end(self) -> None:
        """Nothing is put together any more."""
        if self.assembly is not None:
            self.assembly.changed.disconnect(self.refresh)
        self._watch.stop()
        self.pose.setChecked(False)
        self.canvas.set_posing(False)
        self.assembly = self.canvas.assembly = None
        self.images.forget()

    def _show_views(self) -> None:
        assert self.assembly is not None
        if self.views is not None:
            self._view_row.removeWidget(self.views)
            self.views.deleteLater()
            self.views = None
        names = self._shown_views = self.assembly.puppet.views
        self.view = self.view if self.view in names else names[0]
        if len(names) > 1:
            words = [(name, name or tr("No view")) for name in names]
            self.views = Segments(self._theme, words, tr("View"), room=12)
            self.views.set_value(self.view)
            self.views.chosen.connect(self._choose_view)
            self._view_row.insertWidget(0, self.views)

    def _choose_view(self, view: str) -> None:
        assert self.assembly is not None
        self.view = view
        names = [part.name for part in self.assembly.puppet.of_view(view)]
        self.part = self.part if self.part in names else names[0]
        self.refresh()

    def choose(self, name: str) -> None:
        """Look at a part."""
        if name != self.part:
            self.part = name
            self.refresh()

    def refresh(self) -> None:
        """Show everything as it is."""
        assembly = self.assembly
        if assembly is None:
            return
        puppet = assembly.puppet
        if puppet.views != self._shown_views:
            self._show_views()
        names = [part.name for part in puppet.of_view(self.view)]
        self.part = self.part if self.part in names else names[0]
        guesses = tuple(g for g in puppet.guesses if g.view == self.view)
        parts = puppet.of_view(self.view)
        drawings = sum(len(part.drawings) for part in puppet.parts)
        self.where.setText(
            tr(
                "{name}, {drawings} in {parts}",
                name=assembly.source.name,
                drawings=tr_n("{number} drawing", "{number} drawings", drawings),
                parts=tr_n("{number} part", "{number} parts", len(puppet.parts)),
            )
        )
        self.list.show_parts(parts, frozenset(g.part for g in guesses), self.part)
        self.canvas.view, self.canvas.part = self.view, self.part
        self.canvas.update()
        self.guesses.show_guesses(guesses, len(parts))
        self._below.setFixedHeight(GUESSES if guesses else NO_GUESSES)
        unused = tuple(a for a in puppet.unused if a.view == self.view)
        self.aside.show_aside(unused, assembly.part((self.view, self.part)).called)
        self.panel.show_part(assembly, (self.view, self.part))
        self.undo_button.setEnabled(assembly.steps.can_undo)
        self.redo_button.setEnabled(assembly.steps.can_redo)
        self.keep_button.setEnabled(assembly.unsaved)

    def _picture_came(self) -> None:
        self.list.viewport().update()
        self.canvas.update()
        for button in (*self.panel.drawings, *self.aside.buttons):
            button.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.canvas.setFocus()

    @property
    def unsaved(self) -> bool:
        """Whether something was said that the draft does not say."""
        return self.assembly is not None and self.assembly.unsaved

    # -- what is said ---------------------------------------------------------------------

    def _undo(self) -> None:
        if self.assembly is not None:
            self.assembly.undo()

    def _redo(self) -> None:
        if self.assembly is not None:
            self.assembly.redo()

    def _answer(self, guess: Guess) -> None:
        if self.assembly is not None:
            self.assembly.answer(guess)

    def _answer_all(self) -> None:
        if self.assembly is not None:
            self.assembly.answer_all()

    def _place(self, name: str, place: int) -> None:
        if self.assembly is not None:
            self.part = name
            self.assembly.place((self.view, name), place)

    def _switched(self) -> None:
        canvas = self.canvas
        canvas.apart = self.apart.isChecked()
        canvas.limits = self.switches["limits"].isChecked()
        canvas.others = self.switches["others"].isChecked()
        canvas.update()

    def _use(self, aside: Aside) -> None:
        if self.assembly is not None:
            self.assembly.use(aside, self.part)

    def _ask_view(self) -> None:
        """Which view is to come."""
        assembly = self.assembly
        if assembly is None:
            return
        menu = passing_menu(self)
        for view in ALL_VIEWS:
            action = menu.addAction(view, partial(self.view_asked.emit, assembly, view))
            action.setEnabled(view not in assembly.puppet.views)
        menu.popup(self.more_views.mapToGlobal(self.more_views.rect().bottomLeft()))

    def _look(self) -> None:
        """Whether the drawings on disk are others now."""
        assembly = self.assembly
        if assembly is None or not self.isVisible() or self._looking:
            return
        self._looking = True

        def work(progress: Progress) -> bool:
            progress.step(0.0)
            return assembly.stale

        def done(stale: bool) -> None:
            self._looking = False
            if assembly is self.assembly:
                self.again.setVisible(stale)

        def failed(error: Exception) -> None:
            self._looking = False
            raise error

        self._jobs.run(work, done, failed)

    def read_again(self, assembly: PuppetAssembly, puppet: Puppet) -> None:
        """The drawings as they are now; what was said of them stays."""
        if assembly is not self.assembly:
            return
        self.again.hide()
        assembly.take(puppet)
        self.refresh()
        if puppet.notes:
            self.told.emit(" ".join(puppet.notes))

    def _show_guess(self, guess: Guess) -> None:
        self.choose(guess.part)
        self.canvas.setFocus()

    def keep(self) -> None:
        """Write the draft."""
        if self.assembly is None:
            return
        try:
            path = self.assembly.keep()
        except FoxHandError as error:
            self.failed.emit(error)
            return
        self.told.emit(tr("Kept as {name}, beside the drawings.", name=path.name))
        self.refresh()

    def _make(self) -> bool:
        if self.assembly is None or not self.make_button.isEnabled():
            return False
        self.make_asked.emit(self.assembly)
        return True

    def set_making(self, out: Path | None) -> None:
        """Whether the puppet is being written; nothing is asked for twice meanwhile."""
        self.make_button.setEnabled(out is None)
        self.make_button.setText(
            tr("Make the puppet") if out is None else tr("Writing {name} …", name=out.name)
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keys.do(event):
            super().keyPressEvent(event)
