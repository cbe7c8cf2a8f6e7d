"""The Care screen: what in a library needs a person, and what can be brought back."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from fox_hand.base.language import tr, tr_n
from fox_hand.base.work import Progress
from fox_hand.library.format.entry import Entry
from fox_hand.library.index.picture_cache import PictureCache
from fox_hand.session.app.needs import Shelving
from fox_hand.session.capturing.away import named
from fox_hand.session.libraries.care_commands import CareCommands
from fox_hand.session.libraries.care_report import Report, Version, look_through, versions_of
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.runtime.listed_read import ListedRead
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.cards.tiles import CarePanel, words
from fox_hand.ui.screens.care.care_hands import CareHands
from fox_hand.ui.screens.care.care_list import CareList
from fox_hand.ui.screens.care.care_sections import (
    clash_panel,
    lost_panel,
    pairs_panel,
    strange_panel,
    taken_panel,
)
from fox_hand.ui.screens.care.care_versions import VersionsPanel
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.theme.theme import Theme
from fox_hand.ui.widgets.buttons import Button, Kind
from fox_hand.ui.widgets.passing_menu import passing_menu
from fox_hand.ui.widgets.screen_parts import back_to_stage, screen_top

LATER = 60  # milliseconds until panels that were just made have their places
SUBJECTS = {
    "clashes": ("users", tr("Two people, one card")),
    "strange": ("file-question-mark", tr("Files to look at")),
    "pairs": ("copy", tr("Near twins")),
    "lost": ("puzzle", tr("No rig for these")),
    "taken": ("archive-restore", tr("Taken out")),
    "versions": ("history", tr("Earlier versions")),
}

Looked = tuple[Report, tuple[Version, ...], Entry | None]


class CareScreen(QWidget):
    """Takes the place of the columns while it is open."""

    closed = Signal()
    show_cards = Signal(object)  # tuple of Entry
    find_rig = Signal()
    peek = Signal(object, object)
    compare = Signal(object, object)  # two Entries
    failed = Signal(object)

    def __init__(self, theme: Theme, workspace: Shelving) -> None:
        super().__init__()
        self._theme, self._workspace = theme, workspace
        cache = PictureCache(workspace.places.cache / "pictures")
        self._pictures = CardPictures(workspace.open_libraries.jobs, cache, self._repaint)
        self._care_commands = CareCommands(workspace.file_jobs)
        self.place: OpenLibrary | None = None
        self.report = Report()
        self._entry: Entry | None = None
        self._versions: tuple[Version, ...] = ()
        self._first = True
        self._looking: ListedRead[Looked] | None = None
        self.panels: dict[str, CarePanel] = {}
        self._build()

    # -- building -------------------------------------------------------------------------

    def _build(self) -> None:
        self.back_button = back_to_stage(self._theme)
        self.back_button.clicked.connect(self.closed)
        top = screen_top(self.back_button, tr("Care of the library"))
        self._inside = QWidget()
        self._grid = QGridLayout(self._inside)
        self._grid.setContentsMargins(12, 12, 12, 12)
        self._grid.setSpacing(12)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setWidget(self._inside)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self._side())
        body.addWidget(self._scroll, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(top)
        column.addLayout(body, 1)

    def _side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(208)
        self.library_button = Button(self._theme, tr("Library"), kind=Kind.FLAT, menu=True)
        self.library_button.clicked.connect(self._choose_library)
        self.list = CareList(self._theme, SUBJECTS)
        self.list.chosen.connect(self.go_to)
        self._fine = words("", strong=True)
        self._said = words("", quiet=True)
        self.again = Button(self._theme, tr("Look through again"))
        self.again.clicked.connect(self.look)
        column = QVBoxLayout(side)
        column.setContentsMargins(12, 12, 12, 12)
        column.setSpacing(8)
        column.addWidget(self.library_button)
        column.addWidget(self.list)
        column.addStretch(1)
        column.addWidget(self._fine)
        column.addWidget(self._said)
        column.addWidget(self.again)
        return side

    # -- looking --------------------------------------------------------------------------

    def begin(self, place: OpenLibrary | None, entry: Entry | None = None) -> None:
        """Look through a library; with a card, show its earlier versions."""
        target = self._workspace.open_libraries.target
        self.place = place if place is not None else target  # an empty library is one, too
        self._entry = entry
        self._first = True
        self.report, self._versions = Report(), ()
        name = self.place.name if self.place is not None else tr("No library")
        self.library_button.setText(name)
        self.library_button.setAccessibleName(tr("Library: {name}", name=name))
        self.look()
        self.back_button.setFocus(Qt.FocusReason.OtherFocusReason)

    def look(self) -> None:
        """Look through it (again), beside the window."""
        place, entry = self.place, self._entry
        if place is None or place.reading is None or place.finder is None:
            self._said.setText(tr("This library cannot be reached now."))
            self._show()
            return
        if self._looking is not None:
            self._looking.cancel()
        rigs = [actor.rig for actor in self._workspace.cast.actors]
        library = place.reading.library
        self._said.setText(tr("Looking through it …"))
        self.again.setEnabled(False)

        def work(progress: Progress) -> Looked:
            found = look_through(place, rigs, progress)
            if entry is None:
                return found, (), None
            latest = self._workspace.open_libraries.entry_at(entry.path) or entry
            return found, versions_of(library, entry.identity), latest

        self._looking = ListedRead(
            self._workspace.long_work,
            self._workspace.open_libraries.jobs,
            tr("Look through {name}", name=place.name),
            work,
            self._found,
            self._not_found,
            progressed=lambda _, text: self._said.setText(f"{text} …"),
            stopped=self._stopped,
        )

    def _found(self, found: Looked) -> None:
        self._looking = None
        self.report, self._versions, self._entry = found
        self.again.setEnabled(True)
        report = self.report
        self._fine.setText(
            tr(
                "{fine} of {counted} are fine",
                fine=report.fine,
                counted=tr_n("{number:,} card", "{number:,} cards", report.total),
            )
        )
        self._said.setText(
            tr(
                "Looked through in {seconds:.1f} s. Nothing here is lost: every way "
                "out can be undone, but for deleting for good.",
                seconds=report.seconds,
            )
        )
        self._show()
        if self._entry is not None and self._first:
            QTimer.singleShot(LATER, lambda: self.go_to("versions"))
        self._first = False

    def _not_found(self, error: Exception) -> None:
        self._looking = None
        self.again.setEnabled(True)
        self._said.setText(tr("It could not be looked through."))
        self.failed.emit(error)

    def _stopped(self) -> None:
        self._looking = None
        self.again.setEnabled(True)
        self._said.setText(tr("Stopped. What is shown is from before."))

    def _changed(self, outcome: Outcome) -> None:
        """Something was done; the index hears of it, then we look again."""
        if outcome.done and self.place is not None:
            self._workspace.open_libraries.look_again(self.place, self.look)

    # -- showing --------------------------------------------------------------------------

    def _show(self) -> None:
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        report, place = self.report, self.place
        self.panels = {}
        if place is None:
            return
        hands = CareHands(
            self._theme,
            self._pictures,
            self._care_commands,
            place,
            self._changed,
            self.show_cards.emit,
            self.compare.emit,
            self.find_rig.emit,
            self._label,
        )
        versions = VersionsPanel(hands, self._entry, self._versions)
        versions.peek.connect(self.peek)
        self.panels = {
            "clashes": clash_panel(hands, report),
            "strange": strange_panel(hands, report),
            "pairs": pairs_panel(hands, report),
            "lost": lost_panel(hands, report),
            "taken": taken_panel(hands, report),
            "versions": versions,
        }
        self._place_panels()
        open_pairs = sum(not p.kept for p in report.pairs)
        self.list.set_counts(
            {
                "clashes": len(report.clashes),
                "strange": len(report.strange)
                + len(report.troubles)
                + bool(report.leftovers)
                + len(report.gone),
                "pairs": open_pairs,
                "lost": sum(len(one.entries) for one in report.lost),
                "taken": len(report.taken_out),
                "versions": report.versions,
            }
        )

    def _label(self, name: str) -> str:
        """A control as its rig calls it, where a character on the stage has it."""
        for actor in self._workspace.cast.actors:
            if name in actor.rig.control_row:
                return named(actor.rig, actor.rig.control_row[name])
        return name

    def _place_panels(self) -> None:
        wide = self.width() >= 1160
        columns = 2 if wide else 1
        for at, key in enumerate(("clashes", "strange", "pairs", "taken", "lost")):
            self._grid.addWidget(self.panels[key], at // columns, at % columns)
        if wide and not self._versions:  # one line of words needs no row of its own
            self._grid.addWidget(self.panels["versions"], 2, 1)
        else:
            self._grid.addWidget(self.panels["versions"], 5, 0, 1, columns)
            if wide:
                self._grid.addWidget(self.panels["lost"], 2, 0, 1, 2)
        self._grid.setColumnStretch(0, 1)
        self._grid.setColumnStretch(1, columns - 1)
        self._grid.setRowStretch(6, 1)

    def go_to(self, subject: str) -> None:
        """Bring a subject into sight."""
        panel = self.panels.get(subject)
        if panel is not None:
            self._scroll.ensureWidgetVisible(panel, 0, 12)

    def _choose_library(self) -> None:
        menu = passing_menu(self)
        for place in self._workspace.open_libraries.places:
            menu.addAction(menu_word(place.name), partial(self.begin, place))
        menu.popup(self.library_button.mapToGlobal(self.library_button.rect().bottomLeft()))

    def _repaint(self) -> None:
        self._inside.update()
        for panel in self.panels.values():
            for child in panel.findChildren(QWidget):
                child.update()
