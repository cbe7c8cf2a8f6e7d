"""What is chosen takes effect at once: here, in every part of the window."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtGui import QGuiApplication

from fox_hand.base.language import language, language_with, tr
from fox_hand.ui.commands.actions import run
from fox_hand.ui.commands.own_keys import with_own_keys
from fox_hand.ui.main.choices.keep_size import KeepSize
from fox_hand.ui.main.choices.key_exchange import KeyExchange
from fox_hand.ui.main.home import Home
from fox_hand.ui.main.window_keys import UNDOING, keys_of_parts, tell_keys
from fox_hand.ui.services.first_frame import tokens_for

LARGE = 150  # percent, over which it is asked whether it fits
LOOK = tr("Look")


class PreferenceEffects(QObject):
    """Follows the preferences.

    Args:
        home: the window's parts.
        timer: writes work down when it runs out.
        restart: opens the window anew.
    """

    def __init__(self, home: Home, timer: QTimer, restart: Callable[[], None]) -> None:
        super().__init__(home.window)
        self._home, self._timer, self._restart = home, timer, restart
        self._preferences = home.workspace.preferences
        self._size = int(self._preferences["interface"])
        # whether this window was opened anew for another size
        self.resized = bool(home.workspace.settings.interface_before)
        self._effects: dict[str, Callable[[], None]] = {
            "theme": self._wear,
            "stronger": self._wear,
            "interface": self._resize,
            "language": self._speak,
            "keys": self._take_keys,
            "write_down": self._take_delay,
            "card_labels": self._take_labels,
            "libraries": self._take_order,
            "target": self._take_target,
            "author": home.sheets.refresh,
            "drawing": home.stage.refresh,
        }
        self._preferences.changed.connect(self._changed)
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._wear)
        self._wear()
        self._take_keys()
        self._take_delay()
        self._key_exchange = KeyExchange(home)
        screens, table = home.screens, home.actions_table
        screens.when("preferences", self._connect_pages)
        screens.when(
            "manual",
            lambda: screens.manual.keys_button.clicked.connect(lambda: run(table["keys"])),
        )
        for name in UNDOING:
            screens.when(name, partial(tell_keys, home))
        QTimer.singleShot(0, self._ask_size)

    def _connect_pages(self) -> None:
        home, pages = self._home, self._home.screens.preferences
        table = home.actions_table
        pages.look.resize_asked.connect(lambda size: self._preferences.set("interface", size))
        pages.keys.show_table(table, keys_of_parts(home))
        pages.libraries.new_button.clicked.connect(lambda: run(table["new_library"]))
        pages.libraries.add_button.clicked.connect(lambda: run(table["add_library"]))
        pages.libraries.forget_asked.connect(home.cards.forget_library)

    def _changed(self, name: str) -> None:
        effect = self._effects.get(name)
        if effect is not None:
            effect()

    def _wear(self) -> None:
        chosen = self._preferences
        self._home.theme.wear(tokens_for(chosen["theme"], stronger=chosen["stronger"]))

    def _take_keys(self) -> None:
        table = self._home.actions_table
        table.take(with_own_keys(table.shipped, self._preferences["keys"]))
        tell_keys(self._home)

    def _take_delay(self) -> None:
        self._timer.setInterval(round(self._preferences["write_down"] * 1000))

    def _take_labels(self) -> None:
        self._home.sheets.view.labels = self._preferences["card_labels"]
        self._home.sheets.refresh()

    def _take_order(self) -> None:
        self._home.workspace.open_libraries.set_order(map(Path, self._preferences["libraries"]))

    def _take_target(self) -> None:
        open_libraries = self._home.workspace.open_libraries
        place = open_libraries.place_at(Path(self._preferences["target"]))
        if place is not None and place is not open_libraries.target:
            self._home.cards.set_target(place)

    # -- size -----------------------------------------------------------------------------

    def _resize(self) -> None:
        """The toolkit takes a size only when it starts, so the window is opened anew."""
        self._home.workspace.settings.interface_before = self._size
        self._home.workspace.save_settings()
        self._restart()

    def _speak(self) -> None:
        """Words stand in tables that are made once, so the window is opened anew."""
        if language_with(self._preferences["language"]) != language():
            self._resize()

    def _ask_size(self) -> None:
        """After a restart: where it was chosen, and whether another size fits."""
        settings = self._home.workspace.settings
        before, settings.interface_before = settings.interface_before, 0
        if not before:
            return
        self._home.screens.show_preferences(LOOK)
        if before == settings.interface or settings.interface <= LARGE:
            return
        settings.interface_before = before  # until it is kept a start goes back
        asked = KeepSize(self._home.theme, self._home.window, settings.interface, before)
        asked.kept.connect(self._keep_size)
        asked.refused.connect(lambda: self._preferences.put("interface", before))
        asked.show()
        asked.keep.setFocus(Qt.FocusReason.OtherFocusReason)

    def _keep_size(self) -> None:
        self._home.workspace.settings.interface_before = 0
        self._home.workspace.save_settings()
