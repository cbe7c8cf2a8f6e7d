"""What is done from the Charts screen: charts made and changed, slots posed, captured and lent."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, QPoint
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu

from fox_hand.base.errors import FoxHandError
from fox_hand.base.files.inputs import CARD, read_file
from fox_hand.base.language import tr, tr_n
from fox_hand.library.charts.chart import Chart, Slot, alike_name
from fox_hand.library.charts.filling import Filling
from fox_hand.library.charts.ready import ready_charts
from fox_hand.library.format.container import read_picture
from fox_hand.library.format.entry import Entry
from fox_hand.session.charts.chart_board import ChartBoard
from fox_hand.session.charts.chart_book import chart_from_cards
from fox_hand.session.charts.gap_filling import Wanted
from fox_hand.session.figures.snapshot import KeptBoard
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.session.libraries.request import EmptyCell
from fox_hand.ui.main.home import Home
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from fox_hand.ui.screens.charts.cut_dialog import CutDialog
from fox_hand.ui.screens.charts.slot_popup import NEW, SlotPopup
from fox_hand.ui.services.picture_files import decoded
from fox_hand.ui.stage.reference_images import ReferenceImage
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu

SAMPLE = 200  # pixels of the picture beside the stage
CORNER = QPoint(16, 64)


class ChartWork(QObject):
    """Connects the screen's signals with what they mean."""

    def __init__(self, home: Home) -> None:
        super().__init__(home.window)
        self._home = home
        self._sample: ReferenceImage | None = None
        filling = home.workspace.gap_filling
        home.screens.when("charts", self._connect)
        home.sheets.input.gap_asked.connect(self._pose_gap)
        filling.told.connect(home.overlays.notice.tell)
        filling.filled.connect(self._go_on)
        home.workspace.charts.failed.connect(home.overlays.notice.tell_error)
        home.workspace.capturing.changed.connect(self._on_capture)

    def _connect(self) -> None:
        screen = self._home.screens.charts
        screen.new_asked.connect(self.new_menu)
        screen.chart_menu_asked.connect(self.chart_menu)
        screen.slot_menu_asked.connect(self.slot_menu)
        screen.rename_asked.connect(self.rename)
        screen.edit_asked.connect(self.edit_slot)
        screen.put_on.connect(self.put_on)
        screen.pose_asked.connect(self.pose)
        screen.frames_asked.connect(self.lay_frames)
        screen.picture_dropped.connect(self.drop_picture)

    # -- charts ---------------------------------------------------------------------------

    @property
    def _place(self) -> OpenLibrary | None:
        """Where new charts go."""
        target = self._home.workspace.open_libraries.target
        return target if target is not None and target.ready and target.writable else None

    def new_menu(self, at: QPoint) -> None:
        """Ready charts, and ways to make one."""
        place, home = self._place, self._home
        if place is None:
            home.overlays.notice.tell(tr("No library that is open can be written by you now."))
            return
        menu, charts = passing_menu(home.window), home.workspace.charts
        there = {board.file.key for board in charts.boards if board.place is place}
        for file in ready_charts():
            words = tr_n(
                "{name}, {number:,} slot",
                "{name}, {number:,} slots",
                len(file.chart.slots),
                name=file.chart.name,
            )
            add = partial(charts.add, place, file.chart, file.text, file.key)
            action = menu.addAction(menu_word(words), add)
            action.setToolTip(file.chart.source)
            action.setEnabled(file.key not in there)
        menu.addSeparator()
        menu.addAction(tr("Every card of a sheet …"), partial(self._ask_sheet, place))
        whose = menu.addMenu(tr("All cards of"))
        for character in _characters(place):
            make = partial(self._from_character, place, character)
            whose.addAction(menu_word(character), make)
        whose.setEnabled(bool(whose.actions()))
        menu.addAction(tr("An empty one …"), partial(self._ask_empty, place))
        menu.popup(at)

    def _ask_sheet(self, place: OpenLibrary) -> None:
        words = (tr("Every card here is a slot"), tr("Make the chart"))
        trees = [(place, place.tree())]
        popup = SheetChooser(self._home.theme, self._home.window, words, trees, fresh=False)
        popup.chosen.connect(self._from_sheet)
        popup.open_at(self._home.screens.charts.mapToGlobal(QPoint(216, 480)))

    def _from_sheet(self, place: OpenLibrary, sheet: str) -> None:
        open_libraries = self._home.workspace.open_libraries
        cards = open_libraries.entries_of(open_libraries.keys_in(place, sheet))
        self._from(place, sheet.replace("/", " "), cards)

    def _from_character(self, place: OpenLibrary, character: str) -> None:
        open_libraries = self._home.workspace.open_libraries
        own = [e for e in open_libraries.entries() if e.path.is_relative_to(place.folder)]
        cards = [e for e in own if e.character == character]
        self._from(place, tr("As {character} has", character=character), cards)

    def _from(self, place: OpenLibrary, name: str, cards: list[Entry]) -> None:
        poses = [e for e in cards if e.readable and e.kind == "pose"]
        if not poses:
            self._home.overlays.notice.tell(tr("No pose lies there: no chart was made."))
            return
        self._home.workspace.charts.add(place, chart_from_cards(name, poses))

    def _ask_empty(self, place: OpenLibrary) -> None:
        name, given = QInputDialog.getText(self._home.window, tr("New chart"), tr("Name"))
        if given and name.strip():
            self._home.workspace.charts.add(place, Chart(name.strip()[:80]))

    def chart_menu(self, board: ChartBoard, at: QPoint) -> None:
        """What can be done with a chart."""
        menu, charts = passing_menu(self._home.window), self._home.workspace.charts
        able = board.place.ready and board.place.writable
        menu.addAction(tr("New slot …"), partial(self.edit_slot, board, None)).setEnabled(able)
        menu.addAction(tr("Rename …\tF2"), partial(self.rename, board)).setEnabled(able)
        sheet = partial(self._home.export.chart_sheet, board)
        out = menu.addAction(tr("Contact sheet with its gaps …"), sheet)
        out.setEnabled(bool(board.filled))
        cut = menu.addAction(
            tr("Pictures from a sheet of drawings …"), partial(self.ask_cut, board)
        )
        cut.setEnabled(able and bool(board.chart.slots))
        self._characters_menu(menu.addMenu(tr("For whom")), board, able=able)
        menu.addSeparator()
        if board.chart.source:
            menu.addAction(menu_word(tr("From: {source}", source=board.chart.source))).setEnabled(
                False
            )
        remove = partial(charts.take_away, board)
        menu.addAction(tr("Remove the chart, the cards stay\tDel"), remove).setEnabled(able)
        menu.popup(at)

    def ask_cut(self, board: ChartBoard) -> None:
        """Choose a picture that is cut into a cell for each slot."""
        name, _ = QFileDialog.getOpenFileName(
            self._home.window, tr("A sheet of drawings"), "", "Pictures (*.png *.jpg *.jpeg *.webp)"
        )
        if name:
            self.cut(board, Path(name))

    def cut(self, board: ChartBoard, path: Path) -> None:
        """Show how a picture would be cut."""
        try:
            data = read_file(path, CARD)
        except OSError as error:
            why = error.strerror or str(error)
            self._home.overlays.notice.tell(
                tr("{name} cannot be read ({why}).", name=path.name, why=why)
            )
            return
        image = decoded(data)
        if image.isNull():
            self._home.overlays.notice.tell(
                tr("{name} is no picture that can be read.", name=path.name)
            )
            return
        slots = board.chart.slots
        dialog = CutDialog(self._home.theme, self._home.window, image, slots)
        dialog.done_with.connect(
            lambda xs, ys, cells: self._home.workspace.charts.cut_pictures(
                board, data, (xs, ys), cells
            )
        )
        dialog.open()

    def drop_picture(self, path: Path) -> None:
        """A sheet of drawings was dropped on the screen: it is for the chart that is shown."""
        boards = [b for b in self._home.screens.charts.boards if b.chart.slots]
        at = self._home.screens.charts.grid.at
        chosen = [b for b in boards if at is not None and b.key == at[0]] or boards
        if chosen:
            self.cut(chosen[0], path)

    def _characters_menu(self, menu: QMenu, board: ChartBoard, *, able: bool) -> None:
        menu.setEnabled(able)
        named = board.chart.characters
        every = menu.addAction(tr("All that have cards"), partial(self._set_characters, board, ()))
        every.setCheckable(True)
        every.setChecked(not named)
        known = dict.fromkeys((*named, *board.characters, *_characters(board.place)))
        for character in known:
            on = character in (named or board.characters)
            others = tuple(c for c in (named or board.characters) if c != character)
            wanted = others if on else (*others, character)
            action = menu.addAction(
                menu_word(character), partial(self._set_characters, board, wanted)
            )
            action.setCheckable(True)
            action.setChecked(on)

    def _set_characters(self, board: ChartBoard, names: tuple[str, ...]) -> None:
        self._home.workspace.charts.change(
            board,
            tr("Characters of {name}", name=board.chart.name),
            lambda chart: msgspec.structs.replace(chart, characters=names),
        )

    def rename(self, board: ChartBoard) -> None:
        """Another name; its file keeps its own."""
        name, given = QInputDialog.getText(
            self._home.window, tr("Rename"), tr("Name of the chart"), text=board.chart.name
        )
        if given and name.strip() and name.strip() != board.chart.name:
            self._home.workspace.charts.change(
                board,
                tr("Rename {name}", name=board.chart.name),
                lambda chart: msgspec.structs.replace(chart, name=name.strip()[:80]),
            )

    # -- slots ----------------------------------------------------------------------------

    def slot_menu(self, board: ChartBoard, one: Filling, at: QPoint) -> None:
        """What can be done with a slot."""
        home, menu = self._home, passing_menu(self._home.window)
        charts, slot = home.workspace.charts, one.slot
        able = board.place.ready and board.place.writable
        pose = menu.addAction(tr("Pose and capture it"), partial(self.pose, board, one))
        pose.setEnabled(home.workspace.gap_filling.why_not(board, one) is None)
        if one.cards:
            cards = [f.card for f in one.cards]
            menu.addAction(tr("Show its cards"), partial(home.screens.show_cards, cards))
            out = partial(charts.refuse, board, slot.key, one.character, cards[0])
            menu.addAction(tr("Take the best out of it\tDel"), out).setEnabled(able)
        menu.addSeparator()
        menu.addAction(tr("This slot …"), partial(self.edit_slot, board, one)).setEnabled(able)
        for words, step in ((tr("Further to the front"), -1), (tr("Further to the back"), 1)):
            move = partial(charts.move_slot, board, slot.key, step)
            menu.addAction(words, move).setEnabled(able)
        if one.cards:
            show = partial(self._set_sample, board, slot, one.cards[0].card)
            menu.addAction(tr("Its best card is the sample for all"), show).setEnabled(able)
        remove = partial(charts.set_slot, board, slot.key, None)
        menu.addAction(tr("Remove the slot, the cards stay"), remove).setEnabled(able)
        menu.popup(at)

    def _set_sample(self, board: ChartBoard, slot: Slot, card: Entry) -> None:
        changed = msgspec.structs.replace(slot, pose=card.identity)
        self._home.workspace.charts.set_slot(board, slot.key, changed)

    def edit_slot(self, board: ChartBoard, one: Filling | None) -> None:
        """What a slot says, or a new one."""
        screen, slot = self._home.screens.charts, one.slot if one is not None else Slot(NEW, NEW)
        popup = SlotPopup(self._home.theme, self._home.window, slot)
        popup.done.connect(partial(self._set_slot, board, one))
        popup.open_at(screen.mapToGlobal(QPoint(216, screen.height() - 16)))

    def _set_slot(self, board: ChartBoard, one: Filling | None, slot: Slot) -> None:
        if one is None:
            keys, base = {s.key for s in board.chart.slots}, alike_name(slot.name)[:72]
            key, number = base, 2
            while key in keys:
                key, number = f"{base}{number}", number + 1
            slot = msgspec.structs.replace(slot, key=key)
        self._home.workspace.charts.set_slot(board, slot.key, slot)

    def put_on(self, entry: Entry) -> None:
        """Back to the stage, with the card on whose slot it is, or who acts."""
        workspace = self._home.workspace
        at = self._home.screens.charts.grid.at
        figure = workspace.gap_filling.figure_of(at[2] if at is not None else entry.character)
        if figure is not None:
            workspace.act(figure)
        if workspace.actor is None:
            self._home.overlays.notice.tell(
                tr("There is no figure on the stage yet. Open one first.")
            )
            return
        self._home.screens.close()
        workspace.applying.put_on(entry)

    def pose(self, board: ChartBoard, one: Filling) -> None:
        """Back to the stage, with a capture that has everything filled in."""
        home = self._home
        problem = home.workspace.gap_filling.why_not(board, one)
        if problem is not None:
            home.overlays.notice.tell(problem)
            return
        home.screens.close()
        home.workspace.gap_filling.begin(board, one)
        self._pin(board, one)

    def _pose_gap(self, gap: EmptyCell) -> None:
        """An empty place among the cards was pressed."""
        key, slot, character = gap.slot
        board = self._home.workspace.charts.board(key)
        one = board.filled.get((slot, character)) if board is not None else None
        if board is not None and one is not None:
            self.pose(board, one)

    def _go_on(self, wanted: Wanted) -> None:
        """A slot has its card: the next one that is missing."""
        home, (key, slot, character) = self._home, wanted
        board = home.workspace.charts.board(key)
        if board is None or home.workspace.capturing.draft is not None:
            return
        known = board.chart.slot(slot)
        name = known.name if known is not None else slot
        following = board.next_missing((slot, character))
        if following is None or following.character != character:
            home.overlays.notice.tell(
                tr(
                    "{name} is filled. {character} has all of this chart.",
                    name=name,
                    character=character,
                )
            )
        elif home.workspace.gap_filling.begin(board, following):
            self._pin(board, following)
            home.overlays.notice.tell(
                tr(
                    "{name} is filled. Next: {name_2}. Esc stops.",
                    name=name,
                    name_2=following.slot.name,
                )
            )

    def lay_frames(self, board: ChartBoard, gaps: list[Filling]) -> None:
        """Back to the stage, with a frame for each empty slot."""
        home = self._home
        count = home.workspace.gap_filling.lay_frames(board, gaps)
        if count:
            home.screens.close()
            home.overlays.notice.tell(
                tr_n(
                    "{number} frame for {character} is marked. Pose it, then capture and press "
                    "Marks to take it.",
                    "{number:,} frames for {character} are marked. Pose each, then capture and "
                    "press Marks to take them all.",
                    count,
                    character=gaps[0].character,
                )
            )

    # -- the sample -----------------------------------------------------------------------

    def _pin(self, board: ChartBoard, one: Filling) -> None:
        """How the slot is to look, beside the stage until it is captured."""
        self._unpin()
        picture = self._picture(board, one)
        if picture.isNull():
            return
        kept = KeptBoard("", width=SAMPLE)
        sample = ReferenceImage(self._home.theme, self._home.stage, kept, picture)
        sample.taken_off.connect(self._unpin)
        sample.move(CORNER)
        sample.show()
        sample.raise_()
        self._sample = sample

    def _picture(self, board: ChartBoard, one: Filling) -> QPixmap:
        picture = QPixmap()
        if one.slot.picture:
            picture.load(str(board.file.path.parent / one.slot.picture))
        named = self._home.workspace.open_libraries.by_identity(one.slot.pose)
        card = named or board.sample(one.slot, one.character)
        if picture.isNull() and card is not None:
            try:
                picture.loadFromData(read_picture(card.path, 2 * SAMPLE) or b"")
            except FoxHandError:
                return QPixmap()  # the card says itself what is wrong with it
        return picture

    def _unpin(self) -> None:
        if self._sample is not None:
            self._sample.hide()
            self._sample.deleteLater()
            self._sample = None

    def _on_capture(self) -> None:
        if self._home.workspace.capturing.draft is None:
            self._unpin()


def _characters(place: OpenLibrary) -> list[str]:
    names = place.reading.columns.characters.names if place.reading is not None else ()
    return [name for name in names if name]
