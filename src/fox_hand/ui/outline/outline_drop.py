"""Cards, card files and sheets dropped onto the outline."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QEvent, QMimeData, QObject, QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDragLeaveEvent, QDragMoveEvent, QDropEvent

from fox_hand.base.language import tr, tr_n
from fox_hand.library.index.catalogue import lies_in
from fox_hand.session.libraries.open_libraries import OpenLibraries
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.cards.card_drag import SHEET, card_files_in, keys_in, sheet_in
from fox_hand.ui.outline.outline_list import OutlineList
from fox_hand.ui.outline.outline_rows import OutlineRow
from fox_hand.ui.widgets.event_filter import EventFilter

UNFOLDS = 600  # milliseconds over a folded row
EDGE, TICK, STEP = 24, 30, 8  # pixels, milliseconds, pixels a tick
UPPER = 6  # pixels of a row where a sheet goes before it


@dataclass(frozen=True)
class Verdict:
    """What would happen.

    Args:
        words: as said at the pointer.
        taken: whether it is taken.
        before: whether a sheet goes before the row rather than into it.
        copies: whether copies go there.
    """

    words: str
    taken: bool = False
    before: bool = False
    copies: bool = False


class OutlineDrop(QObject):
    """Takes part in dragging.

    Args:
        rows: the outline.
        open_libraries: where cards lie.
    """

    cards_dropped = Signal(object, object, bool)  # keys, OutlineRow, whether to copy
    files_dropped = Signal(object, object)  # paths, OutlineRow
    sheet_dropped = Signal(object, object, bool, bool)  # Spot, OutlineRow, before, whether to copy

    def __init__(self, rows: OutlineList, open_libraries: OpenLibraries) -> None:
        super().__init__(rows)
        self._rows, self._open_libraries = rows, open_libraries
        self._over = -1
        self._at = QPoint()
        self._unfolding = QTimer(self)
        self._unfolding.setSingleShot(True)
        self._unfolding.setInterval(UNFOLDS)
        self._unfolding.timeout.connect(lambda: rows.fold(self._over, False))
        self._scrolling = QTimer(self)
        self._scrolling.setInterval(TICK)
        self._scrolling.timeout.connect(self._scroll)
        self._heard_there = EventFilter(rows.viewport(), self._heard)
        rows.setAcceptDrops(True)
        rows.viewport().setAcceptDrops(True)

    def _heard(self, event: QEvent) -> bool:
        if isinstance(event, QDragEnterEvent):
            mime = event.mimeData()
            if keys_in(mime) or card_files_in(mime) or mime.hasFormat(SHEET):
                event.acceptProposedAction()
        elif isinstance(event, QDragMoveEvent):
            self._moved(event)
        elif isinstance(event, QDragLeaveEvent):
            self._ended()
        elif isinstance(event, QDropEvent):
            self._dropped(event)
        else:
            return False
        return True

    def _moved(self, event: QDragMoveEvent) -> None:
        self._at = event.position().toPoint()
        row = self._rows.row_at(self._at.y())
        if row != self._over:
            self._over = row
            self._unfolding.start()
        edge = self._at.y() < EDGE or self._at.y() > self._rows.viewport().height() - EDGE
        if edge and not self._scrolling.isActive():
            self._scrolling.start()
        copies = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        found = self.verdict(event.mimeData(), row, self._upper(row), copies)
        self._rows.show_target(
            row, found.words, self._at, before=found.before, locked=not found.taken
        )
        if found.taken:
            event.acceptProposedAction()
        else:
            event.ignore()

    def _upper(self, row: int) -> bool:
        return row >= 0 and self._at.y() - self._rows.rect_of(row).top() < UPPER

    def _scroll(self) -> None:
        y, height = self._at.y(), self._rows.viewport().height()
        way = -1 if y < EDGE else 1 if y > height - EDGE else 0
        bar = self._rows.verticalScrollBar()
        bar.setValue(bar.value() + way * STEP)
        if not way or self._over < 0:
            self._scrolling.stop()

    def _ended(self) -> None:
        self._over = -1
        self._unfolding.stop()
        self._scrolling.stop()
        self._rows.show_target(-1, "", QPoint(), before=False, locked=False)

    def _dropped(self, event: QDropEvent) -> None:
        self._at = event.position().toPoint()
        row, mime = self._rows.row_at(self._at.y()), event.mimeData()
        copies = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        found = self.verdict(mime, row, self._upper(row), copies)
        target = self._rows.rows[row] if row >= 0 else None
        self._ended()
        if not found.taken or target is None:
            event.ignore()
            return
        sheet, keys, files = sheet_in(mime), keys_in(mime), card_files_in(mime)
        if sheet is not None:
            tell = partial(self.sheet_dropped.emit, sheet, target, found.before, found.copies)
        elif keys:
            tell = partial(self.cards_dropped.emit, keys, target, found.copies)
        else:
            tell = partial(self.files_dropped.emit, files, target)
        event.acceptProposedAction()
        tell()

    def verdict(self, mime: QMimeData, row: int, upper: bool, copies: bool) -> Verdict:
        """Whether a row takes what is dragged, and what is said of it.

        Args:
            mime: what is dragged.
            row: where the pointer is; -1 for below all rows.
            upper: whether it is at the upper edge of the row.
            copies: whether copies are asked for.
        """
        target = self._rows.rows[row] if 0 <= row < len(self._rows.rows) else None
        if target is None or target.place is None or target.node is None:
            return Verdict(tr("Drop it onto a sheet."))
        place = target.place
        if place.problem is not None:
            return Verdict(tr("{name} cannot be reached now.", name=place.name))
        if not place.writable:
            return Verdict(tr("{name} can only be read by you.", name=place.name))
        sheet = sheet_in(mime)
        if sheet is not None:
            return self._sheet(sheet, target, place, upper, copies)
        keys = keys_in(mime)
        name = (
            tr("{name}, into no sheet", name=place.name) if not target.node.path else target.words
        )
        if not keys:
            return Verdict(
                tr("Bring {count} into {name}", count=len(card_files_in(mime)), name=name),
                taken=True,
            )
        entries = self._open_libraries.entries_of(keys[:500])
        homes = {self._open_libraries.place_of(e) for e in entries}
        if not copies and all(
            e.sheet == target.node.path and self._open_libraries.place_of(e) is place
            for e in entries
        ):
            return Verdict(
                tr(
                    "{rest} in {name} already.",
                    rest=tr("It is") if len(keys) == 1 else tr("They are"),
                    name=name,
                )
            )
        copied = copies or place not in homes
        word = tr("Copy") if copied else tr("Move")
        return Verdict(
            tr("{word} {count} to {name}", word=word, count=len(keys), name=name),
            taken=True,
            copies=copies,
        )

    def _sheet(
        self,
        dragged: tuple[int, str],
        target: OutlineRow,
        place: OpenLibrary,
        upper: bool,
        copies: bool,
    ) -> Verdict:
        assert target.node is not None
        number, sheet = dragged
        source = self._open_libraries.place(number)
        above, _, last = sheet.rpartition("/")
        into = target.node.path
        if source is None:
            return Verdict(tr("Its library is not open any more."))
        if source is not place or copies:
            whole = next((n for n in source.tree().walk() if n.path == sheet), None)
            cards = ""
            if whole is not None:
                cards = ", " + tr_n("{number:,} card", "{number:,} cards", whole.count)
            return Verdict(
                tr(
                    "Copy {last}{cards} into {called}",
                    last=last,
                    cards=cards,
                    called=_called(target),
                ),
                taken=True,
                copies=True,
            )
        beside = into.rpartition("/")[0]
        if upper and into and into != sheet and beside == above:
            return Verdict(
                tr("{last} before {called}", last=last, called=_called(target)),
                taken=True,
                before=True,
            )
        if lies_in(into, sheet):
            return Verdict(tr("A sheet cannot lie in itself."))
        if above == into:
            return Verdict(
                tr("{last} lies in {called} already.", last=last, called=_called(target))
            )
        if any(node.name == last for node in target.node.inner):
            return Verdict(
                tr(
                    "{called} has a sheet {last}. Merge the two from the menu.",
                    called=_called(target),
                    last=last,
                )
            )
        return Verdict(
            tr("Move {last} into {called}", last=last, called=_called(target)), taken=True
        )


def _called(target: OutlineRow) -> str:
    whole = target.node is not None and not target.node.path and target.place is not None
    return target.place.name if whole and target.place is not None else target.words
