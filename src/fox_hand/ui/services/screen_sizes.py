"""The sizes that the window had on the screens there are."""

from __future__ import annotations

from fox_hand.session.runtime.settings import ScreenSizes, Settings
from fox_hand.ui.services.first_frame import screens_there

MOST = 12  # sets of screens that are remembered


def take_sizes(settings: Settings) -> None:
    """What is remembered of these screens becomes what counts; of others nothing changes."""
    found = settings.screens.get(screens_there())
    if found is not None:
        settings.window, settings.strip_height = found.window, found.strip_height
        settings.figure_width, settings.sheets_width = found.figure_width, found.sheets_width


def keep_sizes(settings: Settings) -> None:
    """Remember what counts now for these screens; the set that was longest away goes."""
    there = screens_there()
    now = ScreenSizes(
        settings.window, settings.figure_width, settings.sheets_width, settings.strip_height
    )
    others = {name: sizes for name, sizes in settings.screens.items() if name != there}
    settings.screens = dict([*others.items(), (there, now)][-MOST:])
