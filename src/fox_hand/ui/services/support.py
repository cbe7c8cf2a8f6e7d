"""What the window knows of the machine it runs on, for whoever helps."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import PySide6
from PySide6.QtCore import qVersion
from PySide6.QtGui import QGuiApplication

from fox_hand.base.language import tr
from fox_hand.base.system.details import details
from fox_hand.base.system.log import LogFiles


@dataclass(frozen=True)
class Support:
    """Facts and the log.

    Args:
        files: where the log lies; None where none is written.
        driver: what draws, as it names itself; empty while it is not known.
    """

    files: LogFiles | None = None
    driver: Callable[[], str] = str

    def more(self) -> dict[str, str]:
        """What only the window knows."""
        screens = [
            tr(
                "{width}x{height} at {devicepixelratio:g}",
                width=s.size().width(),
                height=s.size().height(),
                devicepixelratio=s.devicePixelRatio(),
            )
            for s in QGuiApplication.screens()
        ]
        window = tr(
            "Qt {qversion} (PySide6 {version__}), {platformname}",
            qversion=qVersion(),
            version__=PySide6.__version__,
            platformname=QGuiApplication.platformName(),
        )
        return {"Window": window, "Screens": ", ".join(screens), "Drawn by": self.driver()}

    def text(self) -> str:
        """All of it, to be copied."""
        return details(self.more(), self.files)

    def tail(self) -> str:
        """The end of the log."""
        found = "" if self.files is None else self.files.tail()
        return found or tr("Nothing has been written to the log.")
