"""Closing the window while something goes on: asked once."""

from __future__ import annotations

from enum import StrEnum

from PySide6.QtWidgets import QMessageBox, QWidget

from fox_hand.base.language import tr
from fox_hand.session.runtime.long_work import LongJob


class Closing(StrEnum):
    """What is done about it."""

    STOP = "stop"
    WAIT = "wait"
    STAY = "stay"


def ask_about(window: QWidget, jobs: list[LongJob]) -> Closing:
    """What a person wants."""
    names = ", ".join(job.label for job in jobs[:3])
    more = tr(" and {count} more", count=len(jobs) - 3) if len(jobs) > 3 else ""
    asked = QMessageBox(window)
    asked.setWindowTitle(tr("Fox Hand"))
    asked.setText(tr("Something is going on: {names}{more}.", names=names, more=more))
    asked.setInformativeText(tr("What is done already stays done."))
    wait = asked.addButton(tr("Finish, then close"), QMessageBox.ButtonRole.AcceptRole)
    stop = asked.addButton(tr("Stop and close"), QMessageBox.ButtonRole.DestructiveRole)
    asked.addButton(tr("Stay here"), QMessageBox.ButtonRole.RejectRole)
    asked.exec()
    if asked.clickedButton() is wait:
        return Closing.WAIT
    return Closing.STOP if asked.clickedButton() is stop else Closing.STAY
