"""``python -m tests.ui.two_screens FOLDER``: the window goes from a screen to a finer one.

Prints as JSON how many pixels of a picture there are for one of the stage at each stop; ends with
an error where a picture stays as coarse, or as fine, as it was.
"""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path

FINE = 2.0


def describe(folder: Path) -> None:
    """Two screens of a machine without any."""
    one = {"width": 1400, "height": 900, "logicalDpi": 96, "logicalBaseDpi": 96, "dpr": 1, "y": 0}
    screens = [{**one, "name": "Near", "x": 0}, {**one, "name": "Fine", "x": 1400}]
    screens[1].update(width=2800, height=1800)
    (folder / "screens.json").write_text(json.dumps({"screens": screens}))
    os.environ["QT_QPA_PLATFORM"] = f"offscreen:configfile={folder / 'screens.json'}"
    os.environ["QT_SCREEN_SCALE_FACTORS"] = f"Near=1;Fine={FINE:g}"


def main() -> None:
    folder = Path(sys.argv[1])
    describe(folder)
    from PySide6.QtWidgets import QApplication

    from fox_hand.__main__ import assembled
    from fox_hand.base.places import Places
    from fox_hand.demo import demo_project
    from tests.small_demo import make_small_demo

    demo_project.SOURCE = make_small_demo(folder / "small")
    application = QApplication([])

    def wait(ready: Callable[[], bool]) -> None:
        until = time.monotonic() + 60
        while not ready():
            assert time.monotonic() < until
            application.processEvents()
            time.sleep(0.01)

    with assembled(Places.under(folder)) as window:
        stage, screens, found = window.stage, window.screens, []
        window.opener.open_crew()
        wait(lambda: len(window.workspace.cast) == 2)

        def stage_is_as_fine() -> bool:
            latest, ratio = stage.pictures.latest, stage.devicePixelRatioF()
            return latest is not None and latest.pixels.shape[1] == round(stage.width() * ratio)

        def pairs_are_as_fine() -> bool:
            two = screens.pairs.trial.two
            image, ratio = two._images[0], two.devicePixelRatioF()
            return image is not None and image.width() == round(two.room()[0] * ratio)

        def go(name: str) -> None:
            screen = next(one for one in application.screens() if one.name() == name)
            window.move(screen.geometry().topLeft())
            wait(lambda: window.screen() is screen)

        for here, there in (("Near", "Fine"), ("Fine", "Near"), ("Near", "Fine")):
            go(here)
            wait(stage_is_as_fine)
            found.append(stage.pictures.latest.pixels.shape[1] / stage.width())
            screens.show_pairs()
            wait(pairs_are_as_fine)
            go(there)
            wait(pairs_are_as_fine)  # a screen that is open follows, too
            screens.close()
        sys.stdout.write(json.dumps(found))


if __name__ == "__main__":
    main()
