"""Which page of the manual speaks of what has the keyboard."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from fox_hand.base.manual import NEWS
from fox_hand.ui.main.home import Home

FIRST = "0-first-minutes"
OF_SCREENS = {
    "pairs": "8-pairs",
    "fit": "9-fit",
    "compare": "10-compare",
    "care": "6-library",
    "performance": "15-other-programs",
    "charts": "17-charts",
    "assemble": "18-drawings",
    "preferences": "20-preferences",
    "start": FIRST,
}


def page_for(home: Home) -> str:
    """The page of the screen that is open, else of the part that has the keyboard."""
    over, page = home.overlays, OF_SCREENS.get(home.screens.now)
    if page is not None:
        return page
    if home.workspace.capturing.draft is not None:
        return "5-capture"
    actor, focused = home.workspace.actor, home.window.focusWidget()
    if actor is None:
        return FIRST
    parts: tuple[tuple[QWidget, str], ...] = (
        (over.mix_bar, "4-put-on"),
        (over.lay_bar, "13-clips"),
        (home.sheets, "6-library"),
        (home.figure_panel, "2-select"),
        (home.timeline, "12-animate"),
        (home.stage, "19-puppets" if actor.rig.flat else "3-pose"),
    )
    for part, page in parts:
        if focused is not None and (part is focused or part.isAncestorOf(focused)):
            return page
    return "4-put-on" if home.workspace.mix is not None else "3-pose"


def show_manual(home: Home) -> None:
    """At the page of what has the keyboard."""
    home.screens.show_manual(page_for(home))


def show_news(home: Home) -> None:
    """What is new."""
    home.screens.show_manual(NEWS)
