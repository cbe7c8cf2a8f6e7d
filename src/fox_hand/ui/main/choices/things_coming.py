"""What is done with a file that is opened elsewhere or dropped, said before it is done."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from fox_hand.base.language import tr
from fox_hand.library.format.container import read_card
from fox_hand.library.format.entry import Entry
from fox_hand.library.format.schema import SUFFIX as CARD
from fox_hand.library.store.pack import SUFFIX as PACK
from fox_hand.session.figures.rig_files import RIG_KINDS, kind_of
from fox_hand.session.shots.project import FILE as PROJECT
from fox_hand.session.shots.shot_file import SUFFIX as SHOT
from fox_hand.ui.exchange.drawing_opening import holds_drawings
from fox_hand.ui.main.home import Home
from fox_hand.ui.stage.reference_images import can_pin

LIBRARY, CHART = "library.toml", ".foxchart.toml"
SOUNDS = frozenset({".wav", ".mp3", ".ogg", ".flac", ".m4a", ".aac", ".opus"})


@dataclass(frozen=True)
class Coming:
    """What would be done.

    Args:
        words: said while it is held over the window.
        do: does it; None where nothing can be done.
    """

    words: str
    do: Callable[[], None] | None


def coming(home: Home, path: Path) -> Coming:
    """What a file or folder is for."""
    if path.is_dir():
        return _folder(home, path)
    if path.name in (PROJECT, LIBRARY):
        return _folder(home, path.parent)
    name, stem = path.name, path.stem
    drawings = Coming(
        tr("Puts the drawings of {name} together", name=name), lambda: home.drawings.open(path)
    )
    by_kind = {
        SHOT: Coming(tr("Opens the shot {stem}", stem=stem), lambda: home.shot_opener.open(path)),
        PACK: Coming(
            tr("Looks into the pack {stem}", stem=stem), lambda: home.export.open_pack(path)
        ),
        CARD: Coming(tr("Shows the card {stem}", stem=stem), lambda: show_card(home, path)),
    }
    kind = path.suffix.lower()
    if name.lower().endswith(CHART):
        chart = name[: -len(CHART)]
        return Coming(tr("Shows the chart {chart}", chart=chart), lambda: _chart(home, path))
    if kind in by_kind:
        return by_kind[kind]
    if holds_drawings(path):
        return drawings
    if can_pin(path):
        middle = home.stage.rect().center()
        return Coming(
            tr("Pins {name} to the stage", name=name), lambda: home.overlays.pin_board(path, middle)
        )
    if kind in SOUNDS:
        return Coming(tr("{name} is a sound; Fox Hand has no use for sounds yet", name=name), None)
    known = kind_of(path) in RIG_KINDS
    words = (
        tr("Brings {name} onto the stage", name=name)
        if known
        else tr("Fox Hand does not open {name}", name=name)
    )
    return Coming(words, lambda: home.opener.open_rig(path))  # which says why it does not


def _folder(home: Home, path: Path) -> Coming:
    if (path / PROJECT).is_file():
        return Coming(
            tr("Opens the project {name}", name=path.name),
            lambda: home.shot_opener.open_project(path),
        )
    if (path / LIBRARY).is_file():
        return Coming(
            tr("Opens the library {name}", name=path.name), lambda: home.opener.open_library(path)
        )
    if holds_drawings(path):
        return Coming(
            tr("Puts the drawings of {name} together", name=path.name),
            lambda: home.drawings.open(path),
        )
    return Coming(tr("{name} holds no project, no library and no drawings", name=path.name), None)


def take(home: Home, paths: list[Path]) -> None:
    """Files that were opened elsewhere: the window comes to the front, each is put to its use."""
    window = home.window
    window.setWindowState(window.windowState() & ~window.windowState().WindowMinimized)
    window.show()
    window.raise_()
    window.activateWindow()
    if home.screens.starting:
        home.screens.close()
    for path in paths:
        thing = coming(home, path)
        if not path.exists():
            home.overlays.notice.tell(tr("{path} is not there.", path=path))
        elif thing.do is None:
            home.overlays.notice.tell(f"{thing.words}.")
        else:
            thing.do()


def _chart(home: Home, path: Path) -> None:
    library = library_over(path)
    if library is not None and home.workspace.open_libraries.place_at(library) is None:
        home.opener.open_library(library)
    home.screens.show_charts()


def show_card(home: Home, path: Path) -> None:
    """Before the figure: in its library if it lies in one, and a way to put it on."""
    libraries = home.workspace.open_libraries
    library = library_over(path)
    if library is not None and libraries.place_at(library) is None:
        home.opener.open_library(library)
    if library is not None:
        home.sheets.bring_into_sight(path)

    def put_on() -> None:
        home.overlays.notice.hide()
        card, _ = read_card(path)
        known = libraries.entry_at(path)
        entry = known or Entry(path, "", identity=card.identity, name=card.name)
        home.workspace.applying.put_on(entry)

    where = (
        "" if library is not None else tr(" It lies in no library; drop it here to take a copy.")
    )
    home.overlays.notice.ask(
        tr("{stem} was opened.{where}", stem=path.stem, where=where), tr("Put it on"), put_on
    )


def library_over(path: Path) -> Path | None:
    """The library a file lies in; None outside of one."""
    return next((folder for folder in path.parents if (folder / LIBRARY).is_file()), None)
