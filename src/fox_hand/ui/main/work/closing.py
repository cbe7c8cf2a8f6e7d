"""Closing the window while something goes on: asked once."""

from __future__ import annotations

from enum import StrEnum

from PySide6.QtWidgets import QMessageBox, QWidget

from fox_hand.session.runtime.long_work import LongJob


class Closing(StrEnum):
    """What is done about it."""

    STOP = "stop"
    WAIT = "wait"
    STAY = "stay"


def ask_about(window: QWidget, jobs: list[LongJob]) -> Closing:
    """What a person wants."""
    names = ", ".join(job.label for job in jobs[:3])
    more = f" and {len(jobs) - 3} more" if len(jobs) > 3 else ""
    asked = QMessageBox(window)
    asked.setWindowTitle("Fox Hand")
    asked.setText(f"Something is going on: {names}{more}.")
    asked.setInformativeText("What is done already stays done.")
    wait = asked.addButton("Finish, then close", QMessageBox.ButtonRole.AcceptRole)
    stop = asked.addButton("Stop and close", QMessageBox.ButtonRole.DestructiveRole)
    asked.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
    asked.exec()
    if asked.clickedButton() is wait:
        return Closing.WAIT
    return Closing.STOP if asked.clickedButton() is stop else Closing.STAY
