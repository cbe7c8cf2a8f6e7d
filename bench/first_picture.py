"""Starts the application with the demo, says when the stage has its first picture, and ends."""

from __future__ import annotations

import sys
import time

from PySide6.QtWidgets import QApplication

from fox_hand import __main__ as program
from fox_hand.cli import Wish
from fox_hand.ui.main.window import Window


def main() -> int:
    begin = program.begin

    def watched(window: Window, wish: Wish) -> None:
        def arrived() -> None:
            print(time.time(), flush=True)
            window.stage.pictures.arrived.disconnect(arrived)
            QApplication.quit()

        window.stage.pictures.arrived.connect(arrived)
        begin(window, wish)

    program.begin = watched
    return program.show(Wish(demo=True))


if __name__ == "__main__":
    sys.exit(main())
