"""Where the keyboard goes: from part to part of the window with Tab, and back where it was."""

from __future__ import annotations

from collections.abc import Sequence

import shiboken6
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QWidget

NEXT, PREVIOUS = Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason

SAME_ROW = 8  # pixels between the middles of what stands in one row


class FocusOrder:
    """Tab goes through the parts in one order, whenever their contents were made.

    Args:
        window: whose keyboard it is.
        parts: in their order; each with everything that lies in it.
    """

    def __init__(self, window: QWidget, parts: Sequence[QWidget]) -> None:
        self._window, self._parts = window, parts

    def stops(self) -> list[QWidget]:
        """Everything Tab stops at now, part by part, in each as one reads."""
        found: list[QWidget] = []
        for part in self._parts:
            inside = [w for w in part.findChildren(QWidget) if self._stops_at(w)]
            found += [part] if self._stops_at(part) else []
            found += _as_one_reads(inside, part)
        return found

    def _stops_at(self, widget: QWidget) -> bool:
        policy = widget.focusPolicy()
        takes = bool(policy & Qt.FocusPolicy.TabFocus)
        seen = widget.isVisibleTo(self._window) and widget.isEnabled()
        return takes and seen and widget.focusProxy() is None

    def go(self, *, on: bool) -> bool:
        """To the next stop, or the one before; false where the keyboard is in none of the parts."""
        stops, now = self.stops(), self._window.focusWidget()
        if now not in stops:
            return False
        by = 1 if on else -1
        stops[(stops.index(now) + by) % len(stops)].setFocus(NEXT if on else PREVIOUS)
        return True


def _as_one_reads(widgets: Sequence[QWidget], part: QWidget) -> list[QWidget]:
    """Row by row, in each from the left; what lies in something comes after it."""

    def middle(widget: QWidget) -> QPoint:
        return widget.mapTo(part, widget.rect().center())

    rows: list[list[QWidget]] = []
    for widget in sorted(widgets, key=lambda w: middle(w).y()):
        if rows and middle(widget).y() - middle(rows[-1][0]).y() <= SAME_ROW:
            rows[-1].append(widget)
        else:
            rows.append([widget])
    return [w for row in rows for w in sorted(row, key=lambda w: middle(w).x())]


class WayBack:
    """Remembers who had the keyboard before something took it.

    Args:
        otherwise: who has it where that one is gone.
    """

    def __init__(self, otherwise: QWidget) -> None:
        self._otherwise = otherwise
        self._before: QWidget | None = None

    def remember(self) -> None:
        """Something takes the keyboard now."""
        self._before = self._otherwise.window().focusWidget()

    def go(self) -> None:
        """Give it back."""
        before, self._before = self._before, None
        gone = before is None or not shiboken6.isValid(before) or not before.isVisible()
        (self._otherwise if gone or before is None else before).setFocus(
            Qt.FocusReason.OtherFocusReason
        )
