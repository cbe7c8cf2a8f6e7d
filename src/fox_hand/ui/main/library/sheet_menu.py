"""The menu of sheets, and what it asks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QInputDialog, QMenu

from fox_hand.base.language import tr, tr_n
from fox_hand.library.charts.chart_file import read_charts
from fox_hand.library.index.catalogue import lies_in
from fox_hand.session.libraries.open_library import OpenLibrary
from fox_hand.ui.main.home import Home
from fox_hand.ui.outline.sheet_chooser import SheetChooser
from fox_hand.ui.services.desktop import show_file
from fox_hand.ui.theme.plain_text import menu_word
from fox_hand.ui.widgets.passing_menu import passing_menu

COLOURS = {  # for headings; the name is what is read out
    "": tr("No colour"),
    "#C98A93": tr("Rose"),
    "#D9A15F": tr("Amber"),
    "#A9B86A": tr("Moss"),
    "#5FB3A3": tr("Sea"),
    "#6FA3D8": tr("Sky"),
    "#B79AE0": tr("Heather"),
}


def sheet_menu(home: Home, place: OpenLibrary, sheet: str, at: QPoint) -> None:
    """What can be done with a sheet and all it holds; with a whole library, or its loose cards,
    for the empty name."""
    menu = passing_menu(home.window)
    keys = home.workspace.open_libraries.keys_in(place, sheet) if sheet else []
    inner = sum(lies_in(s, sheet) for s in place.sheets) - 1 if sheet else 0
    able = place.ready and place.writable
    if sheet:
        spot = (place.number, sheet)
        alone = home.sheets.request.within == (spot,)
        word = tr("Show all sheets again") if alone else tr("Show it alone")
        menu.addAction(word, partial(home.sheets.narrow, spot, False))
    menu.addAction(tr("Tick all its cards"), partial(_tick_all, home, place, sheet))
    word = tr("New sheet in it …") if sheet else tr("New sheet …")
    menu.addAction(word, partial(ask_sheet, home, place, sheet)).setEnabled(able)
    if sheet:
        menu.addSeparator()
        menu.addAction(tr("Rename …\tF2"), partial(ask_move, home, place, sheet)).setEnabled(able)
        for word, choose in ((tr("Move into …"), _ask_into), (tr("Merge into …"), _ask_merge)):
            menu.addAction(word, partial(choose, home, place, sheet)).setEnabled(able)
        _colours(home, menu, place, sheet, able)
        _charts(home, menu, place, sheet, able)
        _order(home, menu, place, sheet, able)
        pack = menu.addAction(tr("Pack it …"), partial(home.export.pack_sheet, place, sheet))
        pack.setEnabled(bool(keys))
        menu.addAction(
            tr("Show its folder"), partial(show_file, place.folder / sheet / "sheet.toml")
        )
        menu.addSeparator()
        word = tr("Remove")
        if inner:
            word += tr(
                " with the {counted} in it",
                counted=tr_n("{number:,} sheet", "{number:,} sheets", inner),
            )
        if keys:
            word += tr(
                ", {counted} into the keep",
                counted=tr_n("{number:,} card", "{number:,} cards", len(keys)),
            )
        remove = partial(home.workspace.sheet_commands.remove_sheet, place, sheet)
        menu.addAction(word, remove).setEnabled(able)
    menu.popup(at)


def _tick_all(home: Home, place: OpenLibrary, sheet: str) -> None:
    """All that are shown of a sheet and of those in it."""
    shown = [s for s in home.sheets.view.shown if s.place is place and s.sheet is not None]
    inside = [s for s in shown if s.sheet == sheet or (sheet and lies_in(s.sheet or "", sheet))]
    home.sheets.view.choice.set_ticked([key for s in inside for key in s.keys.tolist()])


def _colours(home: Home, menu: QMenu, place: OpenLibrary, sheet: str, able: bool) -> None:
    colours = menu.addMenu(tr("Colour"))
    colours.setEnabled(able)
    for value, word in COLOURS.items():
        change = partial(home.workspace.sheet_commands.colour_sheet, place, sheet, value)
        action = colours.addAction(word, change)
        if value:
            action.setIcon(_dot(value))


def _charts(home: Home, menu: QMenu, place: OpenLibrary, sheet: str, able: bool) -> None:
    """In the order of a chart, with its gaps."""
    orders, now = menu.addMenu(tr("In the order of a chart")), place.chart(sheet)
    files, _ = read_charts(place.folder) if place.ready else ([], [])
    orders.setEnabled(able and bool(files or now))
    for key, words in [("", tr("No chart")), *((f.key, f.chart.name) for f in files)]:
        change = partial(home.workspace.sheet_commands.set_chart, place, sheet, key)
        action = orders.addAction(menu_word(words), change)
        action.setCheckable(True)
        action.setChecked(key == now)


def _dot(value: str) -> QIcon:
    pixmap = QPixmap(12, 12)
    pixmap.fill(QColor(value))
    return QIcon(pixmap)


def _order(home: Home, menu: QMenu, place: OpenLibrary, sheet: str, able: bool) -> None:
    """Among the sheets that lie beside it."""
    above = sheet.rpartition("/")[0]
    node = next((n for n in place.tree().walk() if n.path == above), None)
    beside = [inner.path for inner in node.inner] if node is not None else []
    at = beside.index(sheet) if sheet in beside else -1
    if len(beside) < 2:
        menu.addSeparator()
        return

    def up() -> None:
        put_before(home, place, sheet, beside[at - 1])

    def down() -> None:
        put_before(home, place, beside[at + 1], sheet)

    menu.addAction(tr("Further up"), up).setEnabled(able and at > 0)
    menu.addAction(tr("Further down"), down).setEnabled(able and -1 < at < len(beside) - 1)
    menu.addSeparator()


def put_before(home: Home, place: OpenLibrary, moved: str, other: str) -> None:
    """A sheet, with those in it, stands before another."""
    inside = [s for s in place.sheets if lies_in(s, moved)]
    others = [s for s in place.sheets if not lies_in(s, moved)]
    at = next((n for n, s in enumerate(others) if lies_in(s, other)), None)
    if inside and at is not None:
        order = (*others[:at], *inside, *others[at:])
        home.workspace.sheet_commands.order_sheets(place, order)


def ask_sheet(home: Home, place: OpenLibrary, above: str = "") -> None:
    """Make a sheet, perhaps in another."""
    what = (
        tr("Name of a sheet in {rpartition}", rpartition=above.rpartition("/")[2])
        if above
        else tr("Name")
    )
    name, given = QInputDialog.getText(
        home.window, tr("New sheet"), tr("{what}, with / for a sheet in another", what=what)
    )
    if given and name.strip(" /"):
        path = f"{above}/{name.strip(' /')}" if above else name.strip(" /")
        home.workspace.sheet_commands.make_sheet(place, path)


def ask_move(home: Home, place: OpenLibrary, sheet: str) -> None:
    """Another name for a sheet; with its path, another place."""
    name, given = QInputDialog.getText(
        home.window, tr("Rename"), tr("Name, with / for a sheet in another"), text=sheet
    )
    if given and name.strip(" /") and name.strip(" /") != sheet:
        home.workspace.sheet_commands.move_sheet(place, sheet, name.strip(" /"))


def _ask_into(home: Home, place: OpenLibrary, sheet: str) -> None:
    _choose(home, place, sheet, (tr("Move into"), tr("Move")), _move_into)


def _ask_merge(home: Home, place: OpenLibrary, sheet: str) -> None:
    _choose(home, place, sheet, (tr("Merge into"), tr("Merge")), _merge_into)


def _move_into(home: Home, place: OpenLibrary, sheet: str, into: str) -> None:
    last = sheet.rpartition("/")[2]
    home.workspace.sheet_commands.move_sheet(place, sheet, f"{into}/{last}" if into else last)


def _merge_into(home: Home, place: OpenLibrary, sheet: str, into: str) -> None:
    home.workspace.sheet_commands.merge_sheet(place, sheet, into)


def _choose(
    home: Home,
    place: OpenLibrary,
    sheet: str,
    words: tuple[str, str],
    do: Callable[[Home, OpenLibrary, str, str], None],
) -> None:
    """Choose one of the other sheets of a library, none that lies in this one."""
    title, word = words
    popup = SheetChooser(
        home.theme,
        home.window,
        (f"{title}: {sheet.rpartition('/')[2]}", word),
        [(place, place.tree())],
        lambda spot: not lies_in(spot[1], sheet),
        fresh=do is _move_into,
    )
    popup.chosen.connect(lambda _, into: do(home, place, sheet, into))
    popup.open_above(home.sheets.foot)
