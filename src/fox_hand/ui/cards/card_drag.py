"""Cards and sheets on the pointer, between sheets, libraries, the stage and other programs."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QMimeData, QPoint, QRectF, Qt, QUrl
from PySide6.QtGui import QDrag, QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from fox_hand.library.format.schema import SUFFIX
from fox_hand.ui.services.picture_files import SUFFIXES
from fox_hand.ui.theme.theme import Theme

CARDS = "application/x-fox-hand-cards"
SHEET = "application/x-fox-hand-sheet"


def cards_mime(keys: Sequence[int], files: Sequence[Path]) -> QMimeData:
    """Cards for the clipboard or the pointer; other programs see files."""
    mime = QMimeData()
    mime.setData(CARDS, " ".join(map(str, keys)).encode())
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in files])
    return mime


def keys_in(mime: QMimeData) -> list[int]:
    """Cards of this window; empty if there are none."""
    if not mime.hasFormat(CARDS):
        return []
    try:
        return [int(k) for k in bytes(mime.data(CARDS).data()).decode().split()]
    except ValueError:
        return []  # another program uses the same word for something else


def card_files_in(mime: QMimeData | None) -> list[Path]:
    """Card files from elsewhere; an empty clipboard has nothing to say."""
    if mime is None:
        return []
    files = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()]
    return [path for path in files if path.name.endswith(SUFFIX)]


def picture_in(mime: QMimeData) -> Path | None:
    """The first picture file among what is dragged."""
    files = (Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile())
    return next((path for path in files if path.suffix.lower() in SUFFIXES), None)


def drag_cards(widget: QWidget, theme: Theme, mime: QMimeData, stamp: QPixmap, count: int) -> None:
    """Take cards on the pointer until they are dropped."""
    drag = QDrag(widget)
    drag.setMimeData(mime)
    drag.setPixmap(_with_count(theme, stamp, count))
    drag.setHotSpot(QPoint(24, 24))
    drag.exec(Qt.DropAction.CopyAction | Qt.DropAction.MoveAction, Qt.DropAction.MoveAction)


def drag_sheet(widget: QWidget, theme: Theme, library: int, sheet: str, title: str) -> None:
    """Take a sheet on the pointer.

    Args:
        widget, theme: where it is taken, and how it looks.
        library: its number among the open ones.
        sheet: its path there.
        title: what is written on it.
    """
    mime = QMimeData()
    mime.setData(SHEET, f"{library} {sheet}".encode(errors="surrogateescape"))
    drag = QDrag(widget)
    drag.setMimeData(mime)
    stamp = QPixmap(160, 24)
    stamp.fill(theme.colour("high"))
    painter = QPainter(stamp)
    painter.setFont(theme.font(12, 600))
    painter.setPen(theme.colour("text"))
    painter.drawText(QRectF(8, 0, 148, 24), Qt.AlignmentFlag.AlignVCenter, title)
    painter.end()
    drag.setPixmap(stamp)
    drag.exec(Qt.DropAction.MoveAction)


def sheet_in(mime: QMimeData) -> tuple[int, str] | None:
    """Number of a library of this window and a sheet in it; None where there is none."""
    if not mime.hasFormat(SHEET):
        return None
    text = bytes(mime.data(SHEET).data()).decode(errors="surrogateescape")
    number, _, sheet = text.partition(" ")
    return (int(number), sheet) if number.isdigit() and sheet else None


def _with_count(theme: Theme, stamp: QPixmap, count: int) -> QPixmap:
    if count < 2:
        return stamp
    marked = QPixmap(stamp)
    painter = QPainter(marked)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(theme.font(11, 600))
    width = painter.fontMetrics().horizontalAdvance(str(count)) + 12
    plate = QRectF(4, 10, width, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour("text"))
    painter.drawRoundedRect(plate, 9, 9)
    painter.setPen(theme.colour("ink"))
    painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, str(count))
    painter.end()
    return marked
