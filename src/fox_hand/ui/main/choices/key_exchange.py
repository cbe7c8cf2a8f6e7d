"""Keys leave for a file and come from one; what would change is shown first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox

from fox_hand.base.errors import FoxHandError
from fox_hand.base.language import tr, tr_n
from fox_hand.session.preferences.key_file import read_keys, write_keys
from fox_hand.ui.commands.actions import Actions
from fox_hand.ui.commands.own_keys import with_own_keys
from fox_hand.ui.main.home import Home

KIND = tr("Keys (*.json);;All files (*)")
SHOWN = 12  # lines of what would change


class KeyExchange:
    """Behind two buttons of the page of keys.

    Args:
        home: the window's parts.
    """

    def __init__(self, home: Home) -> None:
        self._home, self._preferences = home, home.workspace.preferences
        self._notice = home.overlays.notice
        home.screens.when("preferences", self._connect)

    def _connect(self) -> None:
        page = self._home.screens.preferences.keys
        page.export_asked.connect(self.ask_where)
        page.import_asked.connect(self.ask_which)

    def ask_where(self) -> None:
        """Write them into a file."""
        name, _ = QFileDialog.getSaveFileName(
            self._home.window, tr("Export keys"), "fox-hand-keys.json", KIND
        )
        if not name:
            return
        path = Path(name)
        try:
            write_keys(path, self._preferences["keys"])
        except FoxHandError as error:
            self._notice.tell_error(error)
            return
        self._notice.tell(tr("Your keys are in {name}.", name=path.name))

    def ask_which(self) -> None:
        """Read a file, and take it if a person says so."""
        name, _ = QFileDialog.getOpenFileName(self._home.window, tr("Import keys"), "", KIND)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Show what a file would change, and take it."""
        table = self._home.actions_table
        try:
            wanted = read_keys(path)
        except FoxHandError as error:
            self._notice.tell_error(error)
            return
        own = {n: k for n, k in wanted.items() if n in {c.name for c in table.shipped}}
        lines = changes(table, own)
        unknown = len(wanted) - len(own)
        rest = (
            tr("\n{unknown} of its commands are not known here.", unknown=unknown)
            if unknown
            else ""
        )
        if not lines:
            self._notice.tell(tr("{name} changes nothing.{rest}", name=path.name, rest=rest))
            return
        more = tr("\nand {count} more", count=len(lines) - SHOWN) if len(lines) > SHOWN else ""
        asked = QMessageBox(self._home.window)
        asked.setWindowTitle(tr("Import keys"))
        asked.setText(
            tr_n(
                "{name} changes one command:",
                "{name} changes {number} commands:",
                len(lines),
                name=path.name,
            )
        )
        asked.setInformativeText("\n".join(lines[:SHOWN]) + more + rest)
        take = asked.addButton(tr("Take them"), QMessageBox.ButtonRole.AcceptRole)
        asked.addButton(tr("Leave it"), QMessageBox.ButtonRole.RejectRole)
        asked.exec()
        if asked.clickedButton() is take:
            self._preferences.set("keys", own)


def changes(table: Actions, own: Mapping[str, Sequence[str]]) -> list[str]:
    """What other keys would change, a line each."""
    found = []
    for after in with_own_keys(table.shipped, own):
        before = table[after.name]
        if before.keys != after.keys:
            words = before.words.removesuffix(" …")
            old, new = ("/".join(keys) or tr("no key") for keys in (before.keys, after.keys))
            found.append(f"{words}: {old} → {new}")
    return found
