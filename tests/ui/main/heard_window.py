"""A window with the demo and a selected forearm, which stays until it is stopped."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from fox_hand.__main__ import assembled
from fox_hand.base.places import Places
from fox_hand.demo import demo_project
from tests.small_demo import make_small_demo


def main() -> None:
    application = QApplication([])
    demo_project.SOURCE = make_small_demo(Path(sys.argv[1]) / "small")
    with assembled(Places.under(Path(sys.argv[1]))) as window:
        workspace = window.workspace

        def ready() -> None:
            drawn = window.figure_panel.figure.drawing is not None
            if not drawn or len(list(workspace.open_libraries.entries())) < 10:
                QTimer.singleShot(200, ready)
                return
            workspace.selection.set([workspace.cast.actors[0].rig.control_row["forearm_L"]])
            QTimer.singleShot(2000, lambda: sys.stdout.write("ready\n") and sys.stdout.flush())

        window.opener.open_crew()
        QTimer.singleShot(500, ready)
        application.exec()


if __name__ == "__main__":
    main()
