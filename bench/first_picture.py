"""Starts the application with the demo and ends it when the stage has its first picture."""

from __future__ import annotations

import sys

from PySide6.QtWidgets import QApplication

from fox_hand import __main__ as program
from fox_hand.cli import Wish
from fox_hand.ui.window import Window


def main() -> int:
    begin = program.begin

    def watched(window: Window, wish: Wish) -> None:
        window.stage.picture_arrived.connect(QApplication.quit)
        begin(window, wish)

    program.begin = watched
    return program.show(Wish(demo=True))


if __name__ == "__main__":
    sys.exit(main())
