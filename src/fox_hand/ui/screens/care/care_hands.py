"""What the panels of the Care screen need to show and to do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMenu

from fox_hand.base.language import tr
from fox_hand.library.format.entry import Entry
from fox_hand.session.libraries.care_commands import CareCommands
from fox_hand.session.libraries.file_jobs import Outcome
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.cards.card_pictures import CardPictures
from fox_hand.ui.cards.tiles import Tile
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.theme.theme import Theme


@dataclass(frozen=True)
class CareHands:
    """What the panels need to show and to do.

    Args:
        theme, pictures: how things look.
        care_commands, place: what does it, and to which library.
        then: looks through the library again.
        show: brings some cards into sight in the sheets.
        compare: shows two poses side by side.
        find_rig: asks for a character's file.
        label: a control's name for people.
    """

    theme: Theme
    pictures: CardPictures
    care_commands: CareCommands
    place: OpenLibrary
    then: Callable[[Outcome], None]
    show: Callable[[tuple[Entry, ...]], None]
    compare: Callable[[Entry, Entry], None]
    find_rig: Callable[[], None]
    label: Callable[[str], str]

    def tile(
        self,
        entry: Entry,
        size: tuple[int, int],
        captions: tuple[str, ...] = (),
        *,
        badge: str = "",
        choosable: bool = False,
        listed: bool = True,
    ) -> Tile:
        """A card's picture; the right button shows where it is.

        Args:
            entry, size, captions, badge, choosable: see :class:`Tile`.
            listed: whether it is in the sheets.
        """

        def fill_menu(menu: QMenu) -> None:
            if listed:
                menu.addAction(tr("Show in the sheets"), partial(self.show, (entry,)))
            menu.addAction(tr("Show the file"), partial(show_file, entry.path))
            copied = partial(QGuiApplication.clipboard().setText, str(entry.path))
            menu.addAction(tr("Copy the file's place"), copied)

        tile = Tile(
            self.theme,
            self.pictures,
            entry,
            size,
            captions,
            choosable=choosable,
            badge=badge,
        )
        tile.fill_menu = fill_menu
        return tile
