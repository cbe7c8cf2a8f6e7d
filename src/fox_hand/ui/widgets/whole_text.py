"""Words that are cut, because a language needs more room, are read in full in the tooltip."""

from __future__ import annotations

from PySide6.QtCore import QEvent
from PySide6.QtGui import QHelpEvent
from PySide6.QtWidgets import QAbstractButton, QToolTip

from fox_hand.ui.theme.plain_text import plain_tip


def tell_whole(button: QAbstractButton, event: QEvent) -> bool:
    """Whether the pointer rests on a button whose words are cut; then all of them are shown, with
    what its tooltip says."""
    if not isinstance(event, QHelpEvent) or event.type() != QEvent.Type.ToolTip:
        return False
    if not button.text() or button.width() >= button.sizeHint().width():
        return False
    said = [plain_tip(button.text()), button.toolTip()]
    QToolTip.showText(event.globalPos(), ". ".join(dict.fromkeys(filter(None, said))), button)
    return True
