"""Menus that are made when they are asked for, and are gone when they close."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu, QWidget


def passing_menu(parent: QWidget) -> QMenu:
    """An empty menu over a widget. Without this every menu that was ever opened would stay as long
    as the widget, with all its entries."""
    menu = QMenu(parent)
    # what was chosen runs after the menu has hidden itself, so it goes in the turn after that
    menu.aboutToHide.connect(menu.deleteLater)
    return menu
